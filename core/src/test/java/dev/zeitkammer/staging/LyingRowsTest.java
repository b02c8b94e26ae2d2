package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Rows that lie in the warehouse are staged there; only those that need the closer look go to the program and back. */
class LyingRowsTest {

    private static final String DAY = "2026-03-01";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void aStagingSchema() {
        star = new TestStar(folder);
        star.warehouse().execute("create schema office");
        star.warehouse()
                .execute(
                        "create table office.huts (code varchar(10), name varchar(40), beds integer, rate decimal(8,2),"
                                + " height double precision, is_open boolean, since date, changed timestamp, opens time)");
        StringBuilder rows = new StringBuilder();
        for (int row = 0; row < 300; row++) {
            rows.append(row == 0 ? "" : ", ")
                    .append(
                            "('H%d', 'Hut %d', %d, %d.25, %d.5, %s, date '2026-01-%02d', timestamp '2026-02-01 10:00:%02d', time '08:%02d:00')"
                                    .formatted(
                                            row, row, row, row, row, row % 2 == 0, 1 + row % 28, row % 60, row % 60));
        }
        star.warehouse().execute("insert into office.huts values " + rows);
        star.warehouse()
                .execute(
                        "insert into office.huts (code, name, beds) values (null, 'no \"code\"', 7), ('N', null, null)");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void hut(String from, String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: %s
                key: code
                attributes: {name: type 2, beds: {type: 1, as: integer}, rate: type 1, height: type 1, is_open: type 1, since: type 1, changed: type 1, opens: type 1}
                %s
                """.formatted(from, more));
    }

    private List<String> huts() {
        return star.rows(
                "select code, name, beds, rate, height, is_open, since, changed, opens from dim_hut where hut_key > 0 order by code");
    }

    private void nothingWasHandedOver() {
        if (star.warehouse().stager() != star.warehouse()) {
            assertThatThrownBy(() -> star.warehouse().stager().number("select count(*) from zk_handed_over"))
                    .isInstanceOf(WarehouseException.class);
        }
    }

    @Test
    void aTableIsStagedAsItLies() {
        hut("{table: office.huts}", "");
        assertThat(star.loaded(DAY, "dim_hut").counts())
                .containsEntry("new", 301L)
                .containsEntry("setAside", 1L);
        nothingWasHandedOver();
        assertThat(huts())
                .hasSize(301)
                .contains(
                        "H7|Hut 7|7|7.25|7.5|false|2026-01-08|2026-02-01 10:00:07.0|08:07",
                        "N|null|null|null|null|null|null|null|null");
        assertThat(star.setAside())
                .singleElement()
                .asString()
                .startsWith("blank key|code|null|0|{\"code\":null,\"name\":\"no \\\"code\\\"\",\"beds\":");
    }

    @Test
    void aViewWithAConditionAndAMark() {
        star.warehouse().execute("create view office.open_huts as select * from office.huts where is_open");
        hut("{table: office.open_huts, where: \"beds < 100\", newer-than: changed}", "");
        assertThat(star.loaded(DAY, "dim_hut").count("new")).isEqualTo(50);
        star.warehouse()
                .execute(
                        "insert into office.huts (code, name, beds, is_open, changed) values ('Z', 'new', 1, true, timestamp '2026-02-09 00:00:00')");
        assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                .containsEntry("staged", 1L)
                .containsEntry("new", 1L);
        nothingWasHandedOver();
    }

    @Test
    void aQueryOverTables() {
        hut(
                "{query: \"select h.*, h.beds * 2 as twice from office.huts as h where code is not null\", extract: full}",
                "deletions: {absent: close, limit: 90%}");
        star.loaded(DAY, "dim_hut");
        assertThat(huts()).hasSize(301);
        star.warehouse().execute("delete from office.huts where beds >= 100");
        star.warehouse().execute("update office.huts set name = 'changed' where beds = 5");
        assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                .containsEntry("versioned", 1L)
                .containsEntry("absent", 200L);
        nothingWasHandedOver();
    }

    /** Plain texts are cast in the warehouse; only the row that is not goes to the program, which looks at it as closely as at a file. */
    @Test
    void plainTextsAreCastThere() {
        star.warehouse()
                .execute(
                        "create table office.texts as select code, cast(beds as varchar(10)) as beds from office.huts where beds < 3");
        star.warehouse().execute("insert into office.texts values ('X', 'many'), ('Y', ' 7.0 '), ('Z', ' ')");
        star.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {table: office.texts}\nkey: code\nattributes: {beds: {type: 1, as: integer}}\n");
        assertThat(star.loaded(DAY, "dim_hut").counts())
                .containsEntry("new", 5L)
                .containsEntry("setAside", 1L);
        nothingWasHandedOver();
        assertThat(star.setAside()).containsExactly("bad value|beds|many|0|{\"code\":\"X\",\"beds\":\"many\"}");
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0 order by code"))
                .containsExactly("H0|0", "H1|1", "H2|2", "Y|7", "Z|null");
    }

    private static final Map<String, List<String>> TEXTS = Map.of(
            "smallint",
                    List.of("32767", "32768", "-32768", "-32769", "29999", "+7", "007", "1e3", "1_000", "7.0", "7."),
            "integer",
                    List.of("2147483647", "2147483648", "-2147483648", "1999999999", "12.5", "1,000", "0x1F", "12\n"),
            "bigint",
                    List.of("9223372036854775807", "9223372036854775808", "999999999999999999", " 12 ", "\t12", "1 2"),
            "decimal(6,2)",
                    List.of("1234.56", "12345.6", "-9999.99", ".5", "5.", "1.005", "1.500", "1e2", "NaN", "0.1"),
            "double",
                    List.of("0.1", "1e308", "1e400", "1e-400", "Infinity", "nan", "-0", "123456789.123456789", "1.5e3"),
            "date",
                    List.of(
                            "2026-02-28",
                            "2026-02-29",
                            "2028-02-29",
                            "2000-02-29",
                            "1900-02-29",
                            "2026-4-1",
                            "9999-12-31",
                            "2026-04-31",
                            "2026-13-01",
                            "20260401",
                            "2026-04-01 00:00:00",
                            "0001-01-01",
                            "infinity",
                            "today"),
            "timestamp",
                    List.of(
                            "2026-02-28 10:00:00",
                            "2026-02-28T10:00",
                            "2026-02-28",
                            "2026-02-28 24:00:00",
                            "2026-02-28 10:00:60",
                            "2026-02-28 10:00:00.123456",
                            "2026-02-28 10:00:00.1234567",
                            "2026-02-28 10:00:00Z",
                            "now"),
            "time",
                    List.of(
                            "08:00",
                            "08:00:00",
                            "24:00:00",
                            "23:59:59.999999",
                            "8:00",
                            "08:60",
                            "08:00:00 PM",
                            "allballs"),
            "boolean", List.of("true", "T", " yes ", "1", "0", "No", "on", "off", "y", "2", "TRUE"),
            "varchar(3)", List.of("abc", "abcd", "äöü", "a  ", "    "));

    /** Values of wider types fit where they say nothing that the narrower one cannot; the others are set aside as they came. */
    @Test
    void widerTypesAreNarrowedThere() {
        star.warehouse()
                .execute(
                        "create table office.wide (code integer, beds bigint, rate decimal(20,4), since timestamp, name varchar(20))");
        star.warehouse()
                .execute("insert into office.wide values (1, 32767, 12.5, timestamp '2026-01-02 00:00:00', ' Alp '),"
                        + " (2, 32768, 1, null, '  '), (3, -32767, 1.005, null, null),"
                        + " (4, null, 9999.99, timestamp '2026-01-02 00:00:01', null), (5, null, 10000, null, 'x'),"
                        + " (6, -32768, -9999.99, null, 'too long for it')");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {table: office.wide, trim: true, columns: {code: varchar}}
                key: code
                attributes:
                  beds: {type: 1, as: smallint}
                  rate: {type: 1, as: "decimal(6,2)"}
                  since: {type: 1, as: date}
                  name: {type: 1, as: varchar(5)}
                """);
        star.loaded(DAY, "dim_hut");
        nothingWasHandedOver();
        assertThat(star.rows("select code, beds, rate, since, name from dim_hut where hut_key > 0"))
                .containsExactly("1|32767|12.50|2026-01-02|Alp");
        assertThat(star.setAside())
                .extracting(row -> row.substring(0, row.indexOf("|0|")))
                .containsExactly(
                        "bad value|beds|32768",
                        "bad value|rate|1.0050",
                        "bad value|since|2026-01-02 00:00:01",
                        "bad value|rate|10000.0000",
                        "bad value|name|too long for it");
    }

    /** What a query makes of a file and of a table stays where it is made; the file's line is told of a row that is set aside. */
    @Test
    void aQueryOverAFileAndATable() {
        star.write("rates.csv", "code,rate\nH1,10.5\nH2,much\nH3,99999999.5\nH4,4\n");
        star.write(
                "inputs/rates.yaml",
                "input: rates\nfiles: rates.csv\ncolumns: {code: varchar, rate: \"decimal(12,2)\"}\n");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from:
                  query: "select r.code, r.rate as rate, h.name from rates r join office.huts h on h.code = r.code"
                key: code
                attributes: {name: type 2, rate: {type: 1, as: "decimal(8,2)"}}
                """);
        assertThat(star.loaded(DAY, "dim_hut").counts()).containsEntry("new", 2L);
        nothingWasHandedOver();
        assertThat(star.rows("select code, rate, name from dim_hut where hut_key > 0 order by code"))
                .containsExactly("H1|10.50|Hut 1", "H4|4.00|Hut 4");
        assertThat(star.setAside())
                .containsExactlyInAnyOrder(
                        "bad value|rate|much|3|H2,much", "bad value|rate|99999999.50|4|H3,99999999.5");
    }

    /** Texts of a table come out as those of a file do, whatever the warehouse's own casts would make of them. */
    @Test
    void asStrictAsFiles() {
        List<String> types = List.copyOf(new TreeSet<>(TEXTS.keySet()));
        StringBuilder file = new StringBuilder("id");
        StringBuilder attributes = new StringBuilder();
        StringBuilder columns = new StringBuilder("id varchar(10)");
        for (int type = 0; type < types.size(); type++) {
            file.append(",t").append(type);
            columns.append(", t").append(type).append(" varchar(40)");
            attributes
                    .append(type == 0 ? "" : ", ")
                    .append("t%d: {type: 1, as: \"%s\"}".formatted(type, types.get(type)));
        }
        file.append('\n');
        star.warehouse().execute("create table office.texts (" + columns + ")");
        int row = 0;
        for (int type = 0; type < types.size(); type++) {
            for (String text : TEXTS.get(types.get(type))) {
                row++;
                String before = ",".repeat(type);
                String id = "R%03d".formatted(row);
                file.append(id)
                        .append(',')
                        .append(before)
                        .append('"')
                        .append(text)
                        .append('"')
                        .append(",".repeat(types.size() - type - 1))
                        .append('\n');
                star.warehouse()
                        .execute("insert into office.texts (id, t" + type + ") values ('" + id + "', '" + text + "')");
            }
        }
        star.write("texts.csv", file.toString());
        for (String from : List.of("filed: {files: texts.csv}", "lying: {table: office.texts}")) {
            String name = from.substring(0, 5);
            star.write(
                    "dimensions/" + name + ".yaml",
                    "dimension: " + name + "\nfrom: " + from.substring(7) + "\nkey: id\nattributes: {" + attributes
                            + "}\n");
        }
        star.loaded(DAY, "dim_filed");
        star.loaded(DAY, "dim_lying");
        nothingWasHandedOver();
        String values =
                IntStream.range(0, types.size()).mapToObj(type -> ", t" + type).collect(Collectors.joining());
        assertThat(star.rows("select id" + values + " from dim_lying where lying_key > 0 order by id"))
                .hasSizeBetween(40, row - 30)
                .isEqualTo(star.rows("select id" + values + " from dim_filed where filed_key > 0 order by id"));
    }
}
