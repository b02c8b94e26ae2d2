package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Values of rows that lie in the warehouse are converted there where they are plain, and as strictly as texts of files. */
class LyingValuesTest {

    private static final String DAY = "2026-03-01";

    @TempDir
    Path folder;

    /** A schema of its own: those of a cluster outlive a test. */
    private final String office = "office_" + Long.toHexString(System.nanoTime());

    private TestStar star;

    @BeforeEach
    void aStagingSchema() {
        star = new TestStar(folder);
        star.warehouse().execute("create schema " + office);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void table(String rows, String... columns) {
        List<Column> typed = Stream.of(columns)
                .map(column -> column.split(" ", 2))
                .map(column -> new Column(column[0], SqlType.parse(column[1]).orElseThrow()))
                .toList();
        star.warehouse().execute(star.warehouse().dialect().createTable(office + ".rows", typed));
        star.warehouse().execute("insert into " + office + ".rows values " + rows);
    }

    private void nothingWasHandedOver() {
        if (star.warehouse().stager() != star.warehouse()) {
            assertThatThrownBy(() -> star.warehouse().stager().number("select count(*) from zk_handed_over"))
                    .isInstanceOf(WarehouseException.class);
        }
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

    /** Plain texts are cast in the warehouse; only the row that is not goes to the program, which looks at it as closely as at a file. */
    @Test
    void plainTextsAreCastThere() {
        table("('A', '2'), ('X', 'many'), ('Y', ' 7.0 '), ('Z', ' ')", "code varchar(10)", "beds varchar(10)");
        star.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {table: " + office
                        + ".rows}\nkey: code\nattributes: {beds: {type: 1, as: integer}}\n");
        assertThat(star.loaded(DAY, "dim_hut").counts())
                .containsEntry("new", 3L)
                .containsEntry("setAside", 1L);
        nothingWasHandedOver();
        assertThat(star.setAside()).containsExactly("bad value|beds|many|0|{\"code\":\"X\",\"beds\":\"many\"}");
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0 order by code"))
                .containsExactly("A|2", "Y|7", "Z|null");
    }

    /** Values of wider types fit where they say nothing that the narrower one cannot; the others are set aside as they came. */
    @Test
    void widerTypesAreNarrowedThere() {
        table(
                "(1, 32767, 12.5, timestamp '2026-01-02 00:00:00', ' Alp '),"
                        + " (2, 32768, 1, null, '  '), (3, -32767, 1.005, null, null),"
                        + " (4, null, 9999.99, timestamp '2026-01-02 00:00:01', null), (5, null, 10000, null, 'x'),"
                        + " (6, -32768, -9999.99, null, 'too long for it')",
                "code integer",
                "beds bigint",
                "rate decimal(20,4)",
                "since timestamp",
                "name varchar(20)");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {table: %s.rows, trim: true, columns: {code: varchar}}
                key: code
                attributes:
                  beds: {type: 1, as: smallint}
                  rate: {type: 1, as: "decimal(6,2)"}
                  since: {type: 1, as: date}
                  name: {type: 1, as: varchar(5)}
                """.formatted(office));
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

    /** Texts of a table come out as those of a file do, whatever the warehouse's own casts would make of them. */
    @Test
    void asStrictAsFiles() {
        Map<String, List<String>> texts = new TreeMap<>(TEXTS);
        if (!star.warehouse().dialect().stored(SqlType.TIME).equals(SqlType.TIME)) {
            texts.remove("time");
        }
        List<String> types = List.copyOf(texts.keySet());
        List<String> file = new ArrayList<>(List.of("id" + each(types, type -> ",t" + type)));
        List<String> rows = new ArrayList<>();
        for (int type = 0; type < types.size(); type++) {
            for (String text : texts.get(types.get(type))) {
                int only = type;
                String id = "R%03d".formatted(file.size());
                file.add(id + each(types, at -> at == only ? ",\"" + text + "\"" : ","));
                rows.add("('" + id + "'"
                        + each(
                                types,
                                at -> at == only
                                        ? ", " + star.warehouse().dialect().text(text)
                                        : ", null") + ")");
            }
        }
        table(
                String.join(", ", rows),
                Stream.concat(
                                Stream.of("id varchar(10)"),
                                IntStream.range(0, types.size()).mapToObj(type -> "t" + type + " varchar(40)"))
                        .toArray(String[]::new));
        star.write("texts.csv", String.join("\n", file) + "\n");
        dimension("filed", "{files: texts.csv}", types);
        dimension("lying", "{table: " + office + ".rows}", types);
        assertThat(star.load(DAY).status()).isEqualTo(LoadStatus.DONE);
        nothingWasHandedOver();
        String columns = "id" + each(types, type -> ", t" + type);
        assertThat(star.rows("select " + columns + " from dim_lying where lying_key > 0 order by id"))
                .hasSizeBetween(40, rows.size() - 30)
                .isEqualTo(star.rows("select " + columns + " from dim_filed where filed_key > 0 order by id"));
    }

    private static String each(List<String> types, IntFunction<String> written) {
        return IntStream.range(0, types.size()).mapToObj(written).collect(Collectors.joining());
    }

    private void dimension(String name, String from, List<String> types) {
        star.write(
                "dimensions/" + name + ".yaml",
                "dimension: " + name + "\nfrom: " + from + "\nkey: id\nattributes:\n"
                        + each(types, type -> "  t%d: {type: 1, as: \"%s\"}\n".formatted(type, types.get(type))));
    }
}
