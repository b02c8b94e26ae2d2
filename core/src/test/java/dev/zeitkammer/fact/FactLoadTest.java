package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class FactLoadTest {

    private static final String DAY = "2026-03-10";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void aStarOfHutsGuestsAndDays() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: huts.csv, columns: {since: date}}
                        key: code
                        attributes: {category: type 2}
                        history: {effective: since}
                        """)
                .write("dimensions/guest.yaml", """
                        dimension: guest
                        from: {files: guests.csv, columns: {guest_no: integer}}
                        key: [office, guest_no]
                        attributes: {name: type 1}
                        """)
                .write("dimensions/calendar.yaml", """
                        dimension: calendar
                        kind: calendar
                        days: 2026-03-01..2026-03-31
                        """)
                .write("huts.csv", "code,category,since\nA,old,2026-03-01\nA,new,2026-03-05\nB,one,2026-03-04\n")
                .write("guests.csv", "office,guest_no,name\nX,1,Nora\nY,1,Luca\n");
        fact("");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void fact(String ofHut) {
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: stays.csv, columns: {night: date, paid: "decimal(8,2)", guest: integer}}
                grain: stay_no
                lookups:
                  hut: {match: hut, as-of: night%s}
                  guest: {match: [office, guest]}
                  night: {dimension: calendar, match: night}
                degenerate: [channel]
                measures: {paid: "decimal(8,2)", double_paid: {as: "decimal(9,2)", take: "paid * 2"}}
                """.formatted(ofHut));
    }

    private void stays(String... rows) {
        star.write("stays.csv", "stay_no,hut,office,guest,night,channel,paid\n" + String.join("\n", rows) + "\n");
    }

    private String found(String stay) {
        return star.rows("""
                select coalesce(h.category, 'key ' || hut_key), coalesce(g.name, '?'), night_key
                from fact_stay as f join dim_hut as h using (hut_key) join dim_guest as g using (guest_key)
                where stay_no = %s""".formatted(stay)).get(0);
    }

    @Test
    void findsTheVersionThatWasValidOnTheFactsOwnDate() {
        stays(
                "1,A,X,1,2026-03-04,web,10",
                "2,A,X,1,2026-03-05,web,10",
                "3,A,Y,1,2026-03-09,web,10",
                "4,B,Y,1,2026-03-02,web,10",
                "5,C,Z,1,2026-04-02,web,10",
                "6,,,,,web,10",
                "7,A,X,,2026-03-05,web,10",
                "8,A,X,1,,web,10");
        TableEntry entry = star.loaded(DAY, "fact_stay");
        assertThat(found("1")).isEqualTo("old|Nora|20260304");
        assertThat(found("2")).isEqualTo("new|Nora|20260305");
        assertThat(found("3")).isEqualTo("new|Luca|20260309");
        assertThat(found("4")).isEqualTo("one|Luca|20260302");
        assertThat(found("5")).isEqualTo("Unknown|Unknown|-1");
        assertThat(found("6")).isEqualTo("Not applicable|Not applicable|-2");
        assertThat(found("7")).isEqualTo("new|Not applicable|20260305");
        assertThat(found("8")).isEqualTo("Unknown|Nora|-2");
        assertThat(entry.lookups().get("hut"))
                .isEqualTo(Map.of(
                        "matched", 4L, "early", 1L, "unmatched", 2L, "blank", 1L, "ended", 0L, "placeholders", 0L));
        assertThat(entry.lookups().get("guest"))
                .isEqualTo(Map.of(
                        "matched", 5L, "early", 0L, "unmatched", 1L, "blank", 2L, "ended", 0L, "placeholders", 0L));
    }

    @Test
    void writesChangedRowsOnRepeatAndLeavesTheOthersAlone() {
        stays("1,A,X,1,2026-03-04,web,10", "2,A,X,1,2026-03-05,web,10", "3,B,X,1,2026-03-05,web,10");
        star.loaded(DAY, "fact_stay");
        stays(
                "1,A,X,1,2026-03-04,web,10",
                "2,A,X,1,2026-03-05,web,12.50",
                "3,B,Y,1,2026-03-05,,10",
                "4,B,Y,1,2026-03-05,,1");
        TableEntry entry = star.loaded(DAY, "fact_stay");
        assertThat(entry.count("unchanged")).isEqualTo(1);
        assertThat(entry.count("updated")).isEqualTo(2);
        assertThat(entry.count("new")).isEqualTo(1);
        assertThat(star.rows(
                        "select stay_no, channel, paid, double_paid, inserted_by, updated_by, updated_at > inserted_at"
                                + " from fact_stay order by 1"))
                .containsExactly(
                        "1|web|10.00|20.00|1|1|false",
                        "2|web|12.50|25.00|1|2|true",
                        "3|null|10.00|20.00|1|2|true",
                        "4|null|1.00|2.00|2|2|false");
        assertThat(star.loaded(DAY, "fact_stay").count("unchanged")).isEqualTo(4);
    }

    @Test
    void ignoresOrRefusesRepeatsWhereTheDefinitionSaysSo() {
        String definition = """
                fact: stay
                from: {files: stays.csv, columns: {paid: "decimal(8,2)"}}
                grain: stay_no
                measures: {paid: "decimal(8,2)"}
                on-repeat: %s
                """;
        star.write("facts/stay.yaml", definition.formatted("ignore"));
        stays("1,A,X,1,2026-03-04,web,10");
        star.loaded(DAY, "fact_stay");
        stays("1,A,X,1,2026-03-04,web,99", "2,A,X,1,2026-03-04,web,20");
        assertThat(star.loaded(DAY, "fact_stay").counts())
                .containsEntry("ignored", 1L)
                .containsEntry("new", 1L)
                .containsEntry("unchanged", 0L);
        star.write("facts/stay.yaml", definition.formatted("refuse"));
        stays("1,A,X,1,2026-03-04,web,98", "3,A,X,1,2026-03-04,web,30");
        assertThat(star.loaded(DAY, "fact_stay").counts())
                .containsEntry("setAside", 1L)
                .containsEntry("new", 1L)
                .containsEntry("unchanged", 0L);
        assertThat(star.setAside()).containsExactly("repeat|stay_no|null|2|1,A,X,1,2026-03-04,web,98");
        assertThat(star.rows("select stay_no, paid from fact_stay order by 1"))
                .containsExactly("1|10.00", "2|20.00", "3|30.00");
    }

    @Test
    void countsEveryStagedRowOnce() {
        stays(
                "1,A,X,1,2026-03-04,web,10",
                "1,A,X,1,2026-03-04,web,10",
                "2,A,X,1,2026-03-04,web,10",
                "2,A,X,1,2026-03-04,web,11",
                ",A,X,1,2026-03-04,web,10",
                "3,A,X,1,2026-03-04,web,10.001",
                "4,A,X,1");
        TableEntry entry = star.loaded(DAY, "fact_stay");
        assertThat(entry.counts())
                .containsEntry("staged", 7L)
                .containsEntry("new", 1L)
                .containsEntry("repeated", 1L)
                .containsEntry("setAside", 5L)
                .containsEntry("unchanged", 0L);
        assertThat(star.setAside())
                .containsExactly(
                        "conflicting duplicate|stay_no|null|4|2,A,X,1,2026-03-04,web,10",
                        "conflicting duplicate|stay_no|null|5|2,A,X,1,2026-03-04,web,11",
                        "blank key|stay_no|null|6|,A,X,1,2026-03-04,web,10",
                        "bad value|paid|10.001|7|3,A,X,1,2026-03-04,web,10.001",
                        "bad line|null|4 fields, the header has 7|8|4,A,X,1");
    }

    @Test
    void setsRowsAsideOnceForTheFirstLookupThatWantsIt() {
        fact(", unmatched: set-aside, blank: set-aside, before-first: unmatched");
        stays(
                "1,A,X,1,2026-03-04,web,10",
                "2,C,Q,9,2026-03-04,web,10",
                "3,,X,1,2026-03-04,web,10",
                "4,B,X,1,2026-03-01,web,1");
        TableEntry entry = star.loaded(DAY, "fact_stay");
        assertThat(entry.count("setAside")).isEqualTo(3);
        assertThat(entry.lookups().get("hut")).containsEntry("unmatched", 2L).containsEntry("blank", 1L);
        assertThat(entry.lookups().get("guest")).containsEntry("unmatched", 0L).containsEntry("matched", 1L);
        assertThat(star.setAside())
                .extracting(row -> row.substring(0, 15))
                .containsOnly("unmatched|hut|C", "unmatched|hut|n", "unmatched|hut|B");
    }

    @Test
    void stopsWhereTheDefinitionSaysSoAndChangesNothing() {
        fact(", unmatched: stop");
        stays("1,A,X,1,2026-03-04,web,10", "2,C,X,1,2026-03-04,web,10");
        LoadEntry load = star.load(DAY);
        assertThat(load.status()).isEqualTo(LoadStatus.STOPPED);
        assertThat(star.failure(DAY)).contains("\"hut\"", "1 row has", "\"C\"");
        assertThat(star.warehouse().has("fact_stay")).isFalse();
    }

    @Test
    void stopsWhenADamagedDimensionWouldMultiplyFacts() {
        stays("1,A,X,1,2026-03-04,web,10");
        star.loaded(DAY, "fact_stay");
        star.warehouse().execute("update dim_hut set valid_to = date '2026-03-07' where code = 'A' and version = 1");
        stays("1,A,X,1,2026-03-06,web,10");
        TableEntry stopped = star.load(DAY, "stay").tables().get(0);
        assertThat(stopped.status()).isEqualTo(LoadStatus.STOPPED);
        assertThat(stopped.error()).get().asString().contains("\"hut\"", "dim_hut", "member A");
        assertThat(star.rows("select count(*) from fact_stay")).containsExactly("1");
    }

    @Test
    void isBlockedByADimensionThatFailsAndLoadsTheRest() {
        stays("1,A,X,1,2026-03-04,web,10");
        star.write("huts.csv", "code,kind,since\nA,x,2026-03-01\n");
        LoadEntry load = star.load(DAY);
        assertThat(load.tables())
                .extracting(table -> table.table() + " " + table.status().word())
                .containsExactly("dim_calendar done", "dim_guest done", "dim_hut failed", "fact_stay blocked");
    }
}
