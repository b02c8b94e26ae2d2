package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.DefinitionException;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Facts that are updated by feeds, replaced, cancelled and appended, and definitions that cannot be. */
class FactRulesTest extends StayStar {

    @Test
    void cancelledFactsAreRemovedOrMarked() {
        fact("guest: ", "deletions: {when: \"status = 'X'\"}\n");
        stays("2026-03-01", "1,,1,,,5,A\n2,,1,,,6,A\n");
        loaded("2026-03-01");
        stays("2026-03-02", "1,,,,,,X\n9,,,,,,X\n2,,1,,,7,A\n3,,1,,,none,X\n");
        assertThat(loaded("2026-03-02").counts())
                .containsEntry("removed", 1L)
                .containsEntry("updated", 2L)
                .containsEntry("unchanged", 1L)
                .containsEntry("setAside", 1L);
        assertThat(star.rows("select no, paid from fact_stay")).containsExactly("2|7");
    }

    @Test
    void markedFactsStayAndComeBack() {
        fact("guest: ", "deletions: {when: \"status = 'X'\", rows: mark}\n");
        stays("2026-03-01", "1,,1,,,5,A\n2,,1,,,6,A\n");
        loaded("2026-03-01");
        stays("2026-03-02", "1,,,,,,X\n9,,,,,,X\n");
        TableEntry marked = loaded("2026-03-02");
        assertThat(marked.counts())
                .containsEntry("removed", 0L)
                .containsEntry("updated", 1L)
                .containsEntry("unchanged", 1L);
        assertThat(star.rows("select no, paid, is_deleted, guest_key from fact_stay order by no"))
                .containsExactly("1|5|true|1", "2|6|false|1");
        assertThat(loaded("2026-03-02").count("unchanged")).isEqualTo(2);
        stays("2026-03-03", "1,,1,,,5,A\n");
        assertThat(loaded("2026-03-03").count("updated")).isEqualTo(1);
        assertThat(star.rows("select no, is_deleted from fact_stay order by no"))
                .containsExactly("1|false", "2|false");
    }

    @Test
    void aSnapshotIsReplacedWithinTheDeliveredPeriods() {
        star.write("facts/beds.yaml", """
                fact: beds
                from: {files: "beds-{date}.csv", columns: {taken: integer, day: date}}
                grain: [code, day]
                lookups: {hut: {as-of: day}}
                measures: {taken: integer}
                replaces: day
                """);
        star.write("beds-2026-03-01.csv", "code,day,taken\nHA,2026-03-01,3\nHB,2026-03-01,4\nHA,2026-03-02,5\n");
        star.loaded("2026-03-01", "fact_beds");
        star.write("beds-2026-03-02.csv", "code,day,taken\nHB,2026-03-02,1\nHC,2026-03-02,many\n");
        assertThat(star.loaded("2026-03-02", "fact_beds").counts())
                .containsEntry("new", 1L)
                .containsEntry("removed", 1L)
                .containsEntry("setAside", 1L);
        assertThat(star.rows("select code, day, taken from fact_beds order by 2, 1"))
                .containsExactly("HA|2026-03-01|3", "HB|2026-03-01|4", "HB|2026-03-02|1");
        star.write("beds-2026-03-03.csv", "code,day,taken\n,2026-03-01,1\nHA,2026-03-01,3\n");
        assertThat(star.loaded("2026-03-03", "fact_beds").counts())
                .containsEntry("removed", 0L)
                .containsEntry("unchanged", 1L);
    }

    @Test
    void aSnapshotWithRolesInItsGrainIsReplacedAlsoWhileOtherRowsAreSetAside() {
        guests("2026-03-01", "1,Anna\n2,Berta\n3,Carla\n");
        star.write("facts/beds.yaml", """
                fact: beds
                from: {files: "beds-{date}.csv", columns: {taken: integer, day: date, guest_no: integer}}
                grain: [guest, night]
                lookups: {guest: {}, night: {dimension: calendar, match: day}}
                measures: {taken: integer}
                replaces: day
                """);
        star.write("beds-2026-03-01.csv", "guest_no,day,taken\n1,2026-03-01,3\n2,2026-03-01,4\n3,2026-03-01,5\n");
        star.loaded("2026-03-01", "fact_beds");
        star.write("beds-2026-03-02.csv", "guest_no,day,taken\n1,2026-03-01,3\n3,2026-03-01,many\n9,2026-03-01,1\n");
        assertThat(star.loaded("2026-03-02", "fact_beds").counts())
                .as("2 is delivered no more, 3 was set aside for its measure, 9 is nobody")
                .containsEntry("removed", 1L)
                .containsEntry("setAside", 2L);
        assertThat(star.rows("select guest_key, taken from fact_beds order by 1"))
                .containsExactly("1|3", "3|5");
        star.write("beds-2026-03-03.csv", "guest_no,day,taken\n1,2026-03-01,3\n,2026-03-01,many\n");
        assertThat(star.loaded("2026-03-03", "fact_beds").count("removed"))
                .as("a row whose guest is not known may be of any fact")
                .isZero();
    }

    @Test
    void aRowThatCannotBeComputedIsSetAsideAlone() {
        star.write("facts/stay.yaml", """
                fact: stay
                from:
                  files: "stays-{date}.csv"
                  columns: {code: varchar, payer_no: varchar, no: varchar, paid: integer, status: varchar}
                  where: "cast(status as integer) > 0"
                grain: no
                lookups: {hut: {match: code}}
                measures:
                  nights: {as: integer, take: "cast(substr(payer_no, 2) as integer)"}
                  long_nights: {as: integer, take: "case when cast(substr(payer_no, 2) as integer) > 3 then cast(substr(payer_no, 2) as integer) end"}
                deletions: {when: "cast(case when paid = 0 then status || 'x' else '1' end as integer) = 2"}
                """);
        stays(
                "2026-03-01",
                "1,HA,1,n3,2026-03-01,5,1\n2,HA,1,many,2026-03-01,5,1\n3,HA,1,n4,2026-03-01,5,A\n"
                        + "4,HA,1,n5,2026-03-01,5,0\n5,HA,1,,2026-03-01,5,1\n6,HA,1,,2026-03-01,0,1\n");
        assertThat(loaded("2026-03-01").counts())
                .containsEntry("staged", 5L)
                .containsEntry("new", 2L)
                .containsEntry("setAside", 3L);
        assertThat(star.rows("select no, nights from fact_stay order by no")).containsExactly("1|3", "5|null");
        assertThat(star.setAside())
                .as("a server says why")
                .extracting(row -> row.replaceAll("(cannot be computed): [^|]*", "$1"))
                .containsExactly(
                        "bad value|nights|cannot be computed|3|2,HA,1,many,2026-03-01,5,1",
                        "bad value|where|cannot be computed|4|3,HA,1,n4,2026-03-01,5,A",
                        "bad value|when|cannot be computed|7|6,HA,1,,2026-03-01,0,1");
    }

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
    void feedsWriteSomeColumnsOfFactsThatAreThereAndNeverInsert() {
        star.write("facts/booking.yaml", """
                fact: booking
                from: {files: "bookings-{date}.csv", columns: {booked_on: date}}
                grain: [booking_no, night_no]
                lookups:
                  booked: {dimension: calendar, match: booked_on}
                  arrived: {dimension: calendar, match: arrived_on}
                  guest: {match: guest_no}
                measures:
                  guests: integer
                  days_waited: {as: integer, take: "arrived_on - booked_on_too"}
                feeds:
                  - {from: {files: "arrivals-{date}.csv", columns: {arrived_on: date, booked_on_too: date}}, match: booking_no, updates: [arrived, days_waited]}
                  - {from: {files: "corrections-{date}.csv"}, match: {booking_no: booking}, updates: guest}
                """.replace(
                        "days_waited: {as: integer, take: \"arrived_on - booked_on_too\"}", "days_waited: integer")
                .replace("booked_on_too: date", "days_waited: integer"));
        star.write(
                "bookings-2026-03-01.csv",
                "booking_no,night_no,booked_on,guest_no,guests\n1,1,2026-02-01,1,2\n1,2,2026-02-01,1,2\n2,1,2026-02-02,1,3\n");
        TableEntry first = star.loaded("2026-03-01", "fact_booking");
        assertThat(first.lookups().get("arrived")).containsEntry("blank", 3L);
        star.write(
                "arrivals-2026-03-02.csv",
                "booking_no,arrived_on,days_waited\n1,2026-03-02,29\n7,2026-03-02,1\n1,2026-03-02,29\n");
        TableEntry fed = star.loaded("2026-03-02", "fact_booking");
        assertThat(fed.counts())
                .containsEntry("staged", 3L)
                .containsEntry("updated", 1L)
                .containsEntry("repeated", 1L)
                .containsEntry("setAside", 1L);
        assertThat(fed.updated()).isEqualTo(2);
        assertThat(star.setAside()).containsExactly("no fact|booking_no|null|3|7,2026-03-02,1");
        String bookings =
                "select booking_no, night_no, booked_key, arrived_key, guest_key, guests, days_waited from fact_booking order by 1, 2";
        assertThat(star.rows(bookings))
                .containsExactly(
                        "1|1|20260201|20260302|1|2|29", "1|2|20260201|20260302|1|2|29", "2|1|20260202|-2|1|3|null");
        star.write(
                "bookings-2026-03-03.csv",
                "booking_no,night_no,booked_on,guest_no,guests\n1,1,2026-02-01,9,4\n3,1,2026-02-03,1,1\n");
        star.write("corrections-2026-03-03.csv", "booking,guest_no\n2,9\n");
        TableEntry both = star.loaded("2026-03-03", "fact_booking");
        assertThat(both.counts())
                .containsEntry("new", 1L)
                .containsEntry("updated", 2L)
                .containsEntry("staged", 3L);
        assertThat(star.rows(bookings))
                .containsExactly(
                        "1|1|20260201|20260302|1|4|29",
                        "1|2|20260201|20260302|1|2|29",
                        "2|1|20260202|-2|-1|3|null",
                        "3|1|20260203|-2|1|1|null");
        guests("2026-03-04", "9,Dora\n");
        assertThat(star.loaded("2026-03-04", "fact_booking").count("healed")).isEqualTo(1);
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
    void rowsBeyondTheHighWaterMarkAreAppended() {
        star.write("facts/visit.yaml", """
                fact: visit
                append: true
                from: {files: "visits.csv", newer-than: seen_no, columns: {seen_no: integer}}
                lookups: {guest: {match: guest_no}}
                measures: {steps: integer}
                """).write("visits.csv", "seen_no,guest_no,steps\n1,1,5\n2,1,5\n2,1,5\n,1,5\n");
        assertThat(star.loaded("2026-03-01", "fact_visit").counts())
                .containsEntry("new", 3L)
                .containsEntry("setAside", 1L);
        star.write("visits.csv", "seen_no,guest_no,steps\n1,1,5\n2,1,5\n4,9,6\n3,1,7\n");
        assertThat(star.loaded("2026-03-02", "fact_visit").counts())
                .containsEntry("staged", 2L)
                .containsEntry("new", 2L);
        assertThat(star.loaded("2026-03-02", "fact_visit").count("staged")).isZero();
        assertThat(star.rows("select guest_key, steps from fact_visit order by steps"))
                .containsExactly("1|5", "1|5", "1|5", "-1|6", "1|7");
        star.write("facts/visit.yaml", "fact: visit\nappend: true\ngrain: seen_no\nfrom: {files: visits.csv}\n");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("leave out \"grain\"")
                .hasMessageContaining("needs \"newer-than\"");
        star.write("facts/visit.yaml", "fact: visit\nappend: true\nfrom: {files: visits.csv, newer-than: seen_no}\n");
    }

    @Test
    void anOverlapReadsALittleAgain() {
        star.write("facts/visit.yaml", """
                fact: visit
                grain: no
                from: {files: "visits.csv", newer-than: seen_on, overlap: 2 days, columns: {seen_on: date}}
                measures: {steps: integer}
                """).write("visits.csv", "no,seen_on,steps\n1,2026-03-01,5\n2,2026-03-04,5\n");
        star.loaded("2026-03-01", "fact_visit");
        star.write("visits.csv", "no,seen_on,steps\n1,2026-03-01,6\n2,2026-03-04,7\n3,2026-03-03,1\n");
        assertThat(star.loaded("2026-03-02", "fact_visit").counts())
                .containsEntry("staged", 2L)
                .containsEntry("new", 1L)
                .containsEntry("updated", 1L);
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

    @Test
    void wrongDefinitionsAreRefusedBeforeAnythingRuns() {
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv"}
                grain: [no, hut]
                lookups: {hut: , guest: {unmatched: placeholder}, clock: }
                measures: {paid: money, left: {take: "1"}}
                replaces: month
                feeds: [{from: {files: x.csv}, match: payer_no, updates: [no, guests]}]
                """);
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("the role \"hut\" cannot be part of the grain")
                .hasMessageContaining("there is no dimension \"clock\"")
                .hasMessageContaining("\"money\" is not a type")
                .hasMessageContaining("\"as\" is missing")
                .hasMessageContaining("\"replaces\" names \"month\", which is not stored")
                .hasMessageContaining("\"no\" is part of the grain, which identifies a row and is never updated")
                .hasMessageContaining("\"guests\" is no role, degenerate or measure")
                .hasMessageContaining("\"payer_no\" is not stored in \"stay\"");
        fact("guest: ", "");
    }
}
