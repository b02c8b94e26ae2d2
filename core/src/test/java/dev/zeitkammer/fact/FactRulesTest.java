package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.DefinitionException;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** Facts that are updated by feeds, replaced, cancelled and appended, and definitions that cannot be. */
@Tag("slow")
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

    /** Rows of a period beyond a mark are not the period: the others of it would go. */
    @Test
    void aSnapshotIsReplacedByWholePeriodsOnly() {
        String visits = """
                fact: visit
                from: {files: "visits.csv", columns: {seen_on: date, no: integer}, newer-than: %s, overlap: %s}
                grain: [no, seen_on]
                replaces: seen_on
                measures: {steps: integer}
                """;
        star.write("facts/visit.yaml", visits.formatted("no", "1"));
        assertThatThrownBy(star::project)
                .hasMessageContaining("facts/visit.yaml:4:11: \"replaces\" removes the facts of a period")
                .hasMessageContaining("let newer-than name \"seen_on\" too");
        star.write("facts/visit.yaml", visits.formatted("seen_on", "1 day"));
        star.write("visits.csv", "no,seen_on,steps\n1,2026-03-01,6\n2,2026-03-02,7\n3,2026-03-02,7\n");
        star.loaded("2026-03-02", "fact_visit");
        star.write("visits.csv", "no,seen_on,steps\n1,2026-03-01,6\n2,2026-03-02,8\n4,2026-03-03,1\n");
        assertThat(star.loaded("2026-03-03", "fact_visit").counts())
                .as("the newest day once more, and what came since")
                .containsEntry("updated", 1L)
                .containsEntry("new", 1L)
                .containsEntry("removed", 1L);
        assertThat(star.rows("select no from fact_visit order by 1")).containsExactly("1", "2", "4");
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

    /** A fact that follows a history stands at the version valid at its date; one of the two alone would part them. */
    @Test
    void aFeedWritesWhatIsLookedUpTogetherWithItsDate() {
        String fact = """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {night_on: date}}
                grain: no
                lookups: {hut: {match: code, as-of: night_on}}
                degenerate: {night: night_on}
                feeds: [{from: {files: x.csv, columns: {night_on: date}}, match: no, updates: %s}]
                """;
        star.write("facts/stay.yaml", fact.formatted("[night]"));
        assertThatThrownBy(star::project)
                .hasMessageContaining("facts/stay.yaml:6:")
                .hasMessageContaining("\"hut\" is looked up at \"night\"")
                .hasMessageContaining("let the feed update \"hut\" too");
        star.write("facts/stay.yaml", fact.formatted("[hut]"));
        assertThatThrownBy(star::project)
                .hasMessageContaining("let the feed update \"night\" too, match by it, or say facts: stay in \"hut\"");
        star.write("facts/stay.yaml", fact.formatted("[hut, night]"));
        star.project();
        star.write("facts/stay.yaml", fact.formatted("[hut]").replace("match: no", "match: {no: no, night: night_on}"));
        star.project();
    }

    @Test
    void aMarkNeverGoesBack() {
        star.write("facts/visit.yaml", """
                fact: visit
                append: true
                from: {files: "visits.csv", newer-than: seen_no, columns: {seen_no: integer}}
                measures: {steps: integer}
                """).write("visits.csv", "seen_no,steps\n1,5\n4,6\n");
        star.loaded("2026-03-01", "fact_visit");
        star.write("visits.csv", "seen_no,steps\n1,5\n2,5\n");
        assertThat(star.loaded("2026-03-02", "fact_visit").count("staged"))
                .as("rows below the mark only")
                .isZero();
        star.write("visits.csv", "seen_no,steps\n1,5\n2,5\n4,6\n5,7\n");
        assertThat(star.loaded("2026-03-03", "fact_visit").counts())
                .as("what equals the mark is loaded already")
                .containsEntry("staged", 1L)
                .containsEntry("new", 1L);
        assertThat(star.rows("select steps from fact_visit order by steps")).containsExactly("5", "6", "7");
    }

    @Test
    void aFeedWritesOverNullAndWritesNull() {
        star.write("facts/visit.yaml", """
                fact: visit
                grain: no
                from: {files: "visits-{date}.csv", columns: {no: integer}}
                measures: {steps: integer, rating: integer}
                feeds: [{from: {files: "ratings-{date}.csv", columns: {no: integer}}, match: no, updates: rating}]
                """);
        star.write("visits-2026-03-01.csv", "no,steps,rating\n1,5,\n2,5,3\n3,5,4\n4,5,\n");
        star.loaded("2026-03-01", "fact_visit");
        star.write("ratings-2026-03-02.csv", "no,rating\n1,5\n2,\n3,4\n4,\n");
        assertThat(star.loaded("2026-03-02", "fact_visit").counts())
                .containsEntry("updated", 2L)
                .containsEntry("unchanged", 2L);
        assertThat(star.rows("select no, rating, updated_by from fact_visit order by no"))
                .containsExactly("1|5|2", "2|null|2", "3|4|1", "4|null|1");
    }

    /** What a load has staged is what it retains: not the rows that were loaded before. */
    @Test
    void onlyRowsBeyondTheMarkAreRetained() {
        star.write("facts/visit.yaml", """
                fact: visit
                append: true
                from: {files: "visits.csv", newer-than: seen_no, retain: true, columns: {seen_no: integer}}
                measures: {steps: integer}
                """).write("visits.csv", "seen_no,steps\n1,5\n2,6\n");
        String retained = "select seen_no from "
                + star.warehouse().dialect().quote(star.warehouse().stagingSchema()) + ".visit order by 1";
        star.loaded("2026-03-01", "fact_visit");
        assertThat(star.rows(retained)).containsExactly("1", "2");
        star.write("visits.csv", "seen_no,steps\n1,5\n2,6\n3,7\n");
        star.loaded("2026-03-02", "fact_visit");
        assertThat(star.rows(retained)).containsExactly("3");
        star.loaded("2026-03-03", "fact_visit");
        assertThat(star.rows(retained)).isEmpty();
    }
}
