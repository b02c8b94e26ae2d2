package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
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
}
