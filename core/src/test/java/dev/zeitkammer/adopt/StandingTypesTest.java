package dev.zeitkammer.adopt;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import dev.zeitkammer.view.MemberHistory;
import java.nio.file.Path;
import java.time.OffsetDateTime;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What stands keeps its types: values that do not fit are bad ones, and what cannot go on is said with the statement. */
class StandingTypesTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void standing() {
        star = new TestStar(folder);
        execute(
                "create table dim_hut (hut_sk integer, code varchar(10), name varchar(12), beds smallint, price decimal(6,2),"
                        + " valid_from date, valid_to date)");
        execute("insert into dim_hut values (1, 'ADL', 'Adlerhorst', 30, 12.50, date '2020-01-01', null)");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                standing: true
                from: {files: "huts.csv"}
                key: code
                attributes: {name: type 1, beds: type 2, price: type 1}
                surrogate: {column: hut_sk}
                history: {open-end: none}
                """);
    }

    private void execute(String sql) {
        star.warehouse().execute(sql);
    }

    private String types() {
        return star.warehouse().columns("dim_hut").stream()
                .filter(column ->
                        List.of("code", "name", "beds", "price", "valid_from").contains(column.name()))
                .map(column -> column.type().toString())
                .toList()
                .toString();
    }

    @Test
    void valuesThatDoNotFitAreBadOnes() {
        String before = types();
        if (TestWarehouses.onServer()) {
            execute("create view names as select name, beds from dim_hut");
        }
        star.write("huts.csv", """
                code,name,beds,price
                ADL,Adlerhorst,31,13.00
                BER,Bergli,40000,10.00
                CAN,Canova,20,7
                DOR,Dorfhaus,4,123456.00
                """);
        assertThat(star.loaded("2026-03-01", "dim_hut").counts())
                .containsEntry("new", 1L)
                .containsEntry("versioned", 1L)
                .containsEntry("setAside", 2L);
        assertThat(star.setAside())
                .containsExactly(
                        "bad value|beds|40000|3|BER,Bergli,40000,10.00",
                        "bad value|price|123456.00|5|DOR,Dorfhaus,4,123456.00");
        assertThat(types()).isEqualTo(before);
        assertThat(star.rows("select code, beds, price from dim_hut where hut_sk > 0 order by hut_sk"))
                .containsExactly("ADL|30|13.00", "ADL|31|13.00", "CAN|20|7.00");
    }

    @Test
    void aKeyThatOutgrowsItsColumnIsSaid() {
        execute("drop table dim_hut");
        execute(
                "create table dim_hut (hut_sk smallint, code varchar(10), name varchar(12), beds smallint, price decimal(6,2),"
                        + " valid_from date, valid_to date)");
        execute("insert into dim_hut values (32766, 'ADL', 'Adlerhorst', 30, 12.50, date '2020-01-01', null)");
        star.write("huts.csv", "code,name,beds,price\nADL,Adlerhorst,30,12.50\nBER,Bergli,12,1\n");
        assertThat(star.loaded("2026-03-01", "dim_hut").count("new")).isEqualTo(1);
        star.write("huts.csv", "code,name,beds,price\nADL,Adlerhorst,30,12.50\nBER,Bergli,12,1\nCAN,Canova,12,1\n");
        assertThat(star.failure("2026-03-02"))
                .contains("A new row would get the key 32768, and hut_sk of dim_hut is smallint, which ends at 32767")
                .contains("alter");
        assertThat(star.rows("select count(*) from dim_hut where hut_sk > 0")).containsExactly("2");
    }

    @Test
    void momentsWithATimeZoneAreShown() {
        execute("alter table dim_hut add column seen timestamp with time zone");
        execute("update dim_hut set seen = timestamp with time zone '2026-03-01 10:00:00+02'");
        star.write("huts.csv", "code,name,beds,price\nADL,Adlerhorst,31,13.00\n");
        star.loaded("2026-03-01", "dim_hut");
        Dimension hut = star.project().dimensions().get(0);
        MemberHistory history = MemberHistory.read(star.warehouse(), hut, List.of("ADL"), Optional.empty());
        int seen = history.columns().stream().map(Column::name).toList().indexOf("seen");
        assertThat(history.versions())
                .extracting(version -> version.get(seen))
                .first()
                .isEqualTo(OffsetDateTime.parse("2026-03-01T08:00:00Z"));
    }

    @Test
    void aLoadWithATimeIsRefusedWhereVersionsBeginOnDays() {
        String before = types();
        star.write("huts.csv", "code,name,beds,price\nADL,Adlerhorst,31,13.00\n");
        assertThat(star.failure("2026-03-01T14:00"))
                .contains(
                        "The column valid_from of dim_hut is date",
                        "want timestamp",
                        "others made it",
                        "run this yourself",
                        "alter");
        assertThat(types()).isEqualTo(before);
    }

    @Test
    void anEmptyTableThatIsWideEnoughIsNotMadeNarrower() {
        execute(
                "create table dim_warden (warden_key bigint, warden_no varchar(80), name varchar(80), row_origin varchar(80),"
                        + " inserted_at timestamp, updated_at timestamp, inserted_by bigint, updated_by bigint, is_deleted boolean)");
        star.write("dimensions/warden.yaml", """
                dimension: warden
                from: {files: "wardens.csv"}
                key: warden_no
                attributes: {name: {type: 1, as: varchar(10)}}
                """).write("wardens.csv", "warden_no,name\n1,Resi\n");
        List<String> before = star.warehouse().columns("dim_warden").stream()
                .map(column -> column.name() + " " + column.type())
                .toList();
        star.load("2026-03-01");
        assertThat(star.rows("select name from dim_warden where warden_key > 0"))
                .containsExactly("Resi");
        assertThat(star.warehouse().columns("dim_warden").stream()
                        .map(column -> column.name() + " " + column.type())
                        .toList())
                .containsAll(before);
    }
}
