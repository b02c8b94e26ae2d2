package dev.zeitkammer.align;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIf;
import org.junit.jupiter.api.io.TempDir;

/** {@code constraints: enforced}: a database that keeps keys holds them, through everything that loads do. */
@EnabledIf("dev.zeitkammer.load.TestWarehouses#onServer")
class ConstraintsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void starWithKeys() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", columns: {up: varchar, since: date}}
                        key: code
                        attributes: {beds: {type: 2, as: integer}}
                        history: {effective: since}
                        lookups: {parent: {dimension: hut, match: up, type: 1}}
                        constraints: enforced
                        """)
                .write("dimensions/calendar.yaml", """
                        dimension: calendar
                        kind: calendar
                        days: 2026-01-01..2026-12-31
                        constraints: enforced
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv", columns: {night_on: date}}
                        grain: no
                        lookups:
                          hut: {match: code, as-of: night_on, unmatched: placeholder}
                          night: {dimension: calendar, match: night_on}
                        degenerate: night_on
                        measures: {guests: integer}
                        constraints: %s
                        """.formatted("enforced"));
    }

    private void day(String day, String huts, String stays) {
        star.write("huts-" + day + ".csv", "code,up,beds,since\n" + huts);
        star.write("stays-" + day + ".csv", "no,code,night_on,guests\n" + stays);
        star.load(day)
                .tables()
                .forEach(table -> assertThat(table.error()).as(table.table()).isEmpty());
    }

    @Test
    void keysAreHeldThroughSplicesPlaceholdersAndParentsOfTheSameDelivery() {
        day("2026-03-01", "ADL,BER,30,2026-01-01\nBER,,12,2026-01-01\n", "1,ADL,2026-02-01,2\n2,NEW,2026-02-01,3\n");
        day("2026-03-02", "ADL,BER,31,2026-01-20\nNEW,ADL,8,2026-01-05\n", "1,ADL,2026-02-01,4\n3,ADL,2026-02-02,1\n");
        day("2026-03-03", "ADL,BER,32,2026-01-10\n", "");
        assertThat(
                        star.rows(
                                "select s.no, h.code, h.beds from fact_stay as s join dim_hut as h on h.hut_key = s.hut_key order by s.no"))
                .containsExactly("1|ADL|31", "2|NEW|8", "3|ADL|31");
        assertThat(
                        star.rows(
                                "select contype::text, count(*) from pg_constraint where conrelid in ('dim_hut'::regclass,"
                                        + " 'fact_stay'::regclass, 'dim_calendar'::regclass) and contype in ('p', 'u', 'f') group by 1 order by 1"))
                .containsExactly("f|3", "p|2", "u|1");
        assertThat(star.rows(
                        "select tablename, count(*), count(distinct replace(indexdef, indexname, '')) from pg_indexes"
                                + " where tablename in ('dim_hut', 'fact_stay') group by 1 order by 1"))
                .as("an index of the key and one of the business key; one of the grain")
                .containsExactly("dim_hut|2|2", "fact_stay|1|1");
        assertThatThrownBy(() -> star.warehouse().execute("delete from dim_hut where code = 'ADL'"))
                .isInstanceOf(WarehouseException.class)
                .hasMessageContaining("violates foreign key constraint");
        assertThatThrownBy(() -> star.warehouse().execute("update fact_stay set hut_key = null"))
                .hasMessageContaining("null value");
        assertThatThrownBy(() -> star.warehouse().execute("insert into fact_stay select * from fact_stay"))
                .hasMessageContaining("duplicate key");
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .allMatch(verdict -> verdict.holds());
        star.load("2026-03-03");
        assertThat(star.rows(
                        "select count(*) from pg_constraint where conrelid = 'fact_stay'::regclass and contype <> 'n'"))
                .as("they are made once")
                .containsExactly("3");
    }

    @Test
    void aTableThatBreaksThemIsRefusedWithItsRows() {
        String enforced = star.read("facts/stay.yaml");
        star.write("facts/stay.yaml", enforced.replace("enforced", "none"));
        day("2026-03-01", "ADL,,30,2026-01-01\n", "1,ADL,2026-02-01,2\n2,ADL,2026-02-01,2\n");
        star.warehouse().execute("update fact_stay set hut_key = 99 where no = 2");
        star.write("facts/stay.yaml", enforced);
        star.write("stays-2026-03-02.csv", "no,code,night_on,guests\n3,ADL,2026-02-01,2\n");
        assertThat(star.failure("2026-03-02"))
                .contains(
                        "The database cannot hold that hut_key is in dim_hut: fact_stay has rows that break it, such as 99;");
        star.warehouse().execute("update fact_stay set hut_key = 1, no = 1 where no = 2");
        assertThat(star.failure("2026-03-02")).contains("cannot hold that no stands once", "such as 1;");
        star.warehouse().execute("update fact_stay set no = 2 where ctid in (select max(ctid) from fact_stay)");
        assertThat(star.loaded("2026-03-02", "fact_stay").counts()).containsEntry("new", 1L);
    }
}
