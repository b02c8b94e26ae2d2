package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

/** What lookups find, count and refuse. */
class FactLookupsTest extends StayStar {

    @Test
    void aLookupAddedToALoadedFactHasAKeyInTheRowsThatAreThere() {
        String definition = """
                fact: stay
                from:
                  files: "stays-{date}.csv"
                  columns: {code: varchar, guest_no: integer, night_on: date, paid: integer}
                grain: no
                lookups: {guest: {}%s}
                degenerate: [code, night_on]
                measures: {paid: integer}
                """;
        star.write("facts/stay.yaml", definition.formatted(""));
        stays("2026-03-01", "1,HA,1,,2026-03-01,5,A\n2,HX,1,,2026-03-01,5,A\n3,,1,,2026-03-01,5,A\n");
        loaded("2026-03-01");
        star.write(
                "facts/stay.yaml",
                definition.formatted(
                        ", hut: {match: code, as-of: night_on}, payer: {dimension: guest, match: payer_no}"));
        stays("2026-03-02", "4,HA,1,1,2026-03-01,5,A\n");
        loaded("2026-03-02");
        assertThat(star.rows("select no, hut_key, payer_key, inserted_by, updated_by from fact_stay order by no"))
                .as("what is stored is looked up; of the payer nothing is known")
                .containsExactly("1|1|-2|1|1", "2|-1|-2|1|1", "3|-2|-2|1|1", "4|1|1|2|2");
    }

    @Test
    void aRoleMayStandInTheGrainAndFlagsMakeTheirCombination() {
        star.write("dimensions/flags.yaml", "dimension: flags\nkind: combination\nattributes: [member, cash]\n")
                .write("facts/visit.yaml", """
                        fact: visit
                        from: {files: "visits-{date}.csv", columns: {member: varchar, cash: varchar, day: date}}
                        grain: [guest, day]
                        lookups: {guest: {match: guest_no}, flags: }
                        """)
                .write(
                        "visits-2026-03-01.csv",
                        "guest_no,day,member,cash\n1,2026-03-01,y,n\n1,2026-03-02,y,n\n9,2026-03-01,,n\n1,2026-03-03,,\n");
        TableEntry visit = star.loaded("2026-03-01", "fact_visit");
        assertThat(visit.counts()).containsEntry("new", 3L).containsEntry("setAside", 1L);
        assertThat(star.setAside()).containsExactly("unmatched|guest_no|9|4|9,2026-03-01,,n");
        assertThat(star.rows(
                        "select flags_key, member, cash, row_origin from dim_flags where flags_key > 0 order by 1"))
                .containsExactly("1|y|n|source", "2|null|null|source");
        star.write(
                "visits-2026-03-02.csv",
                "guest_no,day,member,cash\n1,2026-03-02,,n\n1,2026-03-01,y,n\n,2026-03-01,,\n");
        assertThat(star.loaded("2026-03-02", "fact_visit").counts())
                .containsEntry("updated", 1L)
                .containsEntry("unchanged", 1L);
        assertThat(star.setAside()).contains("blank key|guest_no|null|4|,2026-03-01,,");
        assertThat(star.rows("select guest_key, day, flags_key from fact_visit order by 2"))
                .containsExactly("1|2026-03-01|1", "1|2026-03-02|3", "1|2026-03-03|2");
    }

    @Test
    void twelveLookupsMultiplyNoRowAndADamagedDimensionStopsTheLoad() {
        StringBuilder lookups = new StringBuilder();
        for (int role = 0; role < 4; role++) {
            lookups.append("day").append(role).append(": {dimension: calendar, match: night_on}, ");
            lookups.append("hut").append(role).append(": {dimension: hut, match: code, as-of: night_on}, ");
            lookups.append("guest").append(role).append(": {dimension: guest, match: guest_no}, ");
        }
        fact(lookups.toString(), "");
        stays("2026-03-01", "1,HA,1,,2026-03-05,1,A\n2,HX,9,,2026-03-05,2,A\n3,,,,,3,A\n");
        TableEntry stay = loaded("2026-03-01");
        assertThat(stay.count("new")).isEqualTo(3);
        assertThat(stay.lookups()).hasSize(12);
        assertThat(stay.lookups().values())
                .allMatch(found -> found.values().stream().mapToLong(n -> n).sum() == 3);
        assertThat(star.rows("select no, day3_key, hut0_key, guest2_key from fact_stay order by no"))
                .containsExactly("1|20260305|1|1", "2|20260305|-1|-1", "3|-2|-2|-2");
        star.warehouse()
                .execute(
                        "create temp table twin as select * from dim_guest where guest_key = 1; update twin set guest_key = 77;"
                                + " insert into dim_guest select * from twin");
        stays("2026-03-02", "4,HA,1,,2026-03-05,1,A\n");
        assertThat(star.failure("2026-03-02")).contains("finds more than one row of dim_guest for the member 1");
        star.warehouse().execute("delete from dim_guest where guest_key = 77");
    }

    /** What a large first delivery finds goes straight into the table, and is judged there. */
    @Test
    void aFirstDeliveryIsTakenBackWhereADamagedDimensionMultipliesItsRows() {
        fact("guest: ", "");
        star.tight();
        star.load("2026-03-01");
        star.warehouse()
                .execute(
                        "create temp table twin as select * from dim_guest where guest_key = 1; update twin set guest_key = 77;"
                                + " insert into dim_guest select * from twin");
        stays("2026-03-02", "1,,2,,,5,A\n2,,1,,,5,A\n3,,9,,,5,A\n4,,,,,5,A\n");
        assertThat(star.failure("2026-03-02")).contains("finds more than one row of dim_guest for the member 1");
        assertThat(star.warehouse().has("fact_stay")).isFalse();
        star.warehouse().execute("delete from dim_guest where guest_key = 77");
        TableEntry stay = loaded("2026-03-02");
        assertThat(stay.lookups().get("guest"))
                .containsEntry("matched", 1L)
                .containsEntry("unmatched", 2L)
                .containsEntry("blank", 1L);
        assertThat(stay.unmatched()).hasSize(3);
    }

    /** What was found is read off the stored keys where they tell it, and by looking a second time where a date is at work. */
    @Test
    void aFirstDeliveryCountsWhatItsLookupsFound() {
        fact("hut: {match: code, as-of: night_on}, guest: ", "");
        star.tight();
        star.load("2026-03-01");
        stays(
                "2026-03-02",
                "1,HA,1,,2026-03-05,5,A\n2,HA,1,,2020-01-01,5,A\n3,HX,1,,2026-03-05,5,A\n4,,9,,2026-03-05,5,A\n5,HA,,,2020-01-01,5,A\n");
        TableEntry stay = loaded("2026-03-02");
        assertThat(stay.lookups().get("hut"))
                .containsEntry("matched", 1L)
                .containsEntry("early", 2L)
                .containsEntry("unmatched", 1L)
                .containsEntry("blank", 1L);
        assertThat(stay.lookups().get("guest"))
                .containsEntry("matched", 3L)
                .containsEntry("unmatched", 1L)
                .containsEntry("blank", 1L);
        assertThat(stay.unmatched())
                .extracting(value -> value.role() + " " + value.found() + " " + value.value())
                .containsExactlyInAnyOrder("hut unmatched HX", "hut blank ", "guest unmatched 9", "guest blank ");
    }

    /** Many bytes in few rows: then the whole dimension is asked first whether any member of it stands twice. */
    @Test
    void aLargeDeliveryIsStoppedOnlyByDamagedMembersThatItLooksFor() {
        fact("guest: ", "degenerate: [status]\n");
        String padding = "A".repeat(20_000);
        StringBuilder sound = new StringBuilder();
        for (int stay = 1; stay <= 1_000; stay++) {
            sound.append(stay).append(",,2,,,5,").append(padding).append('\n');
        }
        List<String> asked = new ArrayList<>();
        star.warehouse().watch(executed -> asked.add(executed.sql()));
        stays("2026-03-01", sound.toString());
        assertThat(loaded("2026-03-01").count("new")).isEqualTo(1_000);
        assertThat(asked).as("no member stands twice").noneMatch(sql -> sql.startsWith("select min(coalesce("));
        star.warehouse()
                .execute(
                        "create temp table twin as select * from dim_guest where guest_key = 1; update twin set guest_key = 77;"
                                + " insert into dim_guest select * from twin");
        stays("2026-03-02", sound.toString());
        assertThat(loaded("2026-03-02").count("unchanged")).isEqualTo(1_000);
        stays("2026-03-02", sound + "1001,,1,,,5,A\n");
        assertThat(star.failure("2026-03-02")).contains("finds more than one row of dim_guest for the member 1");
        star.warehouse().execute("delete from dim_guest where guest_key = 77");
    }
}
