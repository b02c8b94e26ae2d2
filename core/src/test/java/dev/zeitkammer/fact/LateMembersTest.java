package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.view.TableView;
import dev.zeitkammer.view.TableView.Selection;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** Facts that come before their members: placeholders and healing. */
class LateMembersTest extends StayStar {

    private static final String STAYS = "select no, hut_key, guest_key from fact_stay order by no";

    @Test
    void aPlaceholderIsMadeOnceForManyFactsAndCompletedInPlace() {
        fact(
                "hut: {as-of: night_on, unmatched: placeholder}, guest: {unmatched: placeholder},"
                        + " payer: {dimension: guest, match: payer_no, unmatched: placeholder}",
                "");
        stays("2026-03-01", "1,HX,7,7,2026-03-01,1,A\n2,HX,1,7,2026-03-02,1,A\n3,HA,7,1,2026-03-02,1,A\n");
        TableEntry stay = loaded("2026-03-01");
        assertThat(stay.lookups().get("hut")).containsEntry("placeholders", 2L).containsEntry("matched", 1L);
        assertThat(stay.lookups().get("guest")).containsEntry("placeholders", 2L);
        assertThat(stay.lookups().get("payer")).containsEntry("placeholders", 2L);
        assertThat(
                        star.rows(
                                "select hut_key, code, beds, valid_from, row_origin, version from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("1|HA|10|2026-03-01|source|1", "2|HX|null|0001-01-01|placeholder|1");
        assertThat(star.rows("select guest_key, guest_no, row_origin from dim_guest where guest_key > 0 order by 1"))
                .containsExactly("1|1|source", "2|7|placeholder");
        huts("2026-03-02", "HX,2026-02-01,5\nHX,2026-03-01,6\nHY,2026-03-01,1\n");
        guests("2026-03-02", "7,Berta\n8,Carla\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                .containsEntry("completed", 1L)
                .containsEntry("versioned", 1L)
                .containsEntry("new", 1L)
                .containsEntry("late", 0L);
        assertThat(star.rows(
                        "select hut_key, code, beds, valid_from, row_origin from dim_hut where hut_key > 0 order by 1"))
                .containsExactly(
                        "1|HA|10|2026-03-01|source",
                        "2|HX|5|2026-02-01|source",
                        "3|HY|1|2026-03-01|source",
                        "4|HX|6|2026-03-01|source");
        assertThat(star.rows(
                        "select guest_key, guest_no, name, row_origin from dim_guest where guest_key > 0 order by 1"))
                .containsExactly("1|1|Anna|source", "2|7|Berta|source", "3|8|Carla|source");
    }

    @Test
    void hashKeysOfAMemberAreNotThatOfItsPlaceholder() {
        hashed();
        fact("hut: {as-of: night_on, unmatched: placeholder}", "degenerate: night_on\n");
        stays("2026-03-01", "1,HX,1,1,2026-02-10,1,A\n2,HX,1,1,2026-03-02,1,A\n");
        loaded("2026-03-01");
        String made = star.rows("select hut_key from dim_hut where code = 'HX'").get(0);
        huts("2026-03-02", "HX,2026-02-01,5\nHX,2026-03-01,6\nHX,2026-04-01,7\n");
        stays("2026-03-02", "3,HA,1,1,2026-03-02,1,A\n");
        loaded("2026-03-02");
        assertThat(star.rows("select hut_key from dim_hut where code = 'HX' and version = 1"))
                .containsExactly(made);
        assertThat(star.rows("select count(distinct hut_key), count(*) from dim_hut where code = 'HX'"))
                .containsExactly("3|3");
        assertThat(star.rows("select s.no, h.beds from fact_stay as s join dim_hut as h on h.hut_key = s.hut_key"
                        + " order by s.no"))
                .containsExactly("1|5", "2|6", "3|10");
    }

    @Test
    void aHashKeyIsNotGivenTwice() {
        hashed();
        star.loaded("2026-03-01", "dim_hut");
        star.warehouse().execute("update dim_hut set code = 'HZ' where code = 'HA'");
        huts("2026-03-02", "HA,2026-03-01,10\n");
        assertThat(star.failure("2026-03-02")).contains("would be given a second time", "nothing was loaded");
        star.warehouse().execute("update dim_hut set code = 'HA' where code = 'HZ'");
    }

    private void hashed() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date, beds: integer}}
                key: code
                surrogate: hash
                attributes: {beds: type 2}
                history: {effective: since}
                """);
    }

    @Test
    void aPlaceholderIsMadeAlsoForARoleOfTheGrain() {
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {guest_no: integer, no: varchar, paid: integer}}
                grain: [no, guest]
                lookups: {guest: {unmatched: placeholder}}
                measures: {paid: integer}
                """);
        stays(
                "2026-03-01",
                "1,HA,1,,2026-03-01,3,A\n1,HA,7,,2026-03-01,4,A\n2,HA,7,,2026-03-01,5,A\n3,HA,,,2026-03-01,6,A\n");
        assertThat(loaded("2026-03-01").counts()).containsEntry("new", 3L).containsEntry("setAside", 1L);
        guests("2026-03-02", "7,Berta\n");
        stays("2026-03-02", "1,HA,7,,2026-03-01,9,A\n");
        assertThat(loaded("2026-03-02").count("updated")).isEqualTo(1);
        assertThat(star.rows("select s.no, g.name, s.paid from fact_stay as s join dim_guest as g"
                        + " on g.guest_key = s.guest_key order by 1, 2"))
                .containsExactly("1|Anna|3", "1|Berta|9", "2|Berta|5");
        assertThat(new TableView(star.warehouse())
                        .rows(
                                star.project().definition("stay"),
                                new Selection(Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty()))
                        .rows())
                .as("shown in order of its grain")
                .hasSize(3);
    }

    @Test
    void aFactWaitsForAValueAndNotForADateThatIsMissing() {
        fact("hut: {as-of: night_on}", "");
        stays("2026-03-01", "1,HA,7,7,,1,A\n2,HX,7,7,,1,A\n3,HX,7,7,2026-03-01,1,A\n");
        TableEntry stay = loaded("2026-03-01");
        assertThat(stay.lookups().get("hut")).containsEntry("unmatched", 3L);
        assertThat(stay.unmatched())
                .extracting(UnmatchedValue::value)
                .containsExactlyInAnyOrder("HA (without a date)", "HX (without a date)", "HX");
        assertThat(star.rows("select count(*) from zeitkammer.waiting where table_name = 'fact_stay'"))
                .containsExactly("1");
    }

    @Test
    void aDimensionWithoutADeliveryHasItsReservedMembersWhereItsTypesAreKnown() {
        star.write("dimensions/tour.yaml", """
                dimension: tour
                from: {files: "tours-{date}.csv", columns: {tour_no: integer}}
                key: tour_no
                attributes: {title: {type: 1, as: varchar}, level: type 2}
                """);
        fact("tour: {match: payer_no}", "");
        stays("2026-03-01", "1,HA,1,7,2026-03-01,3,A\n2,HA,1,,2026-03-01,3,A\n");
        assertThat(star.failure("2026-03-01"))
                .contains("dim_tour", "nothing has been delivered", "the types of level are not known", "as:");
        star.write("dimensions/tour.yaml", """
                dimension: tour
                from: {files: "tours-{date}.csv", columns: {tour_no: integer, level: varchar}}
                key: tour_no
                attributes: {title: {type: 1, as: varchar}, level: type 2}
                """);
        loaded("2026-03-01");
        assertThat(star.rows("select no, tour_key from fact_stay order by 1")).containsExactly("1|-1", "2|-2");
        star.write("tours-2026-03-02.csv", "tour_no,title,level\n7,Round,easy\n");
        star.load("2026-03-02");
        assertThat(star.rows("select no, tour_key from fact_stay order by 1")).containsExactly("1|1", "2|-2");
    }

    @Test
    void aPlaceholderIsCompletedByItsOnlyRow() {
        fact("hut: {as-of: night_on, unmatched: placeholder}", "");
        stays("2026-03-01", "1,HX,7,7,2026-03-01,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HX,2026-02-01,5\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").count("completed")).isEqualTo(1);
        assertThat(
                        star.rows(
                                "select hut_key, beds, valid_from, valid_to, row_origin, last_stated from dim_hut where code = 'HX'"))
                .containsExactly("2|5|2026-02-01|9999-12-31|source|2026-02-01");
    }

    @Test
    void aFactWithoutItsMemberFindsItLater() {
        fact("hut: {as-of: night_on}, guest: ", "");
        stays("2026-03-01", "1,HX,7,,2026-03-10,1,A\n2,HX,,,2026-01-01,1,A\n");
        TableEntry stay = loaded("2026-03-01");
        assertThat(stay.unmatched())
                .containsExactlyInAnyOrder(
                        new UnmatchedValue("hut", "unmatched", "HX", 2),
                        new UnmatchedValue("guest", "unmatched", "7", 1),
                        new UnmatchedValue("guest", "blank", "", 1));
        assertThat(new Journal(star.warehouse()).load(1).tables().get(3).unmatched())
                .hasSize(3);
        assertThat(star.rows(STAYS)).containsExactly("1|-1|-1", "2|-1|-2");
        huts("2026-03-02", "HX,2026-02-01,5\nHX,2026-03-05,6\n");
        TableEntry healed = loaded("2026-03-02");
        assertThat(healed.counts()).containsEntry("healed", 2L).containsEntry("staged", 0L);
        assertThat(star.rows(STAYS)).containsExactly("1|3|-1", "2|2|-2");
        guests("2026-03-03", "7,Berta\n");
        assertThat(loaded("2026-03-03").count("healed")).isEqualTo(1);
        assertThat(star.rows(STAYS)).containsExactly("1|3|2", "2|2|-2");
        assertThat(star.load("2026-03-04").tables().get(3).status()).isEqualTo(LoadStatus.SKIPPED);
    }

    @Test
    void aFactThatNamesSomebodyElseMeanwhileIsNotHealedWithTheOldName() {
        fact("hut: {as-of: night_on}, guest: ", "");
        stays("2026-03-01", "1,HA,7,,2026-03-10,1,A\n2,HA,8,,2026-03-10,1,A\n");
        loaded("2026-03-01");
        stays("2026-03-02", "1,HA,9,,2026-03-10,1,A\n");
        assertThat(loaded("2026-03-02").count("unchanged")).isEqualTo(1);
        guests("2026-03-03", "7,Berta\n8,Carla\n");
        assertThat(loaded("2026-03-03").count("healed")).isEqualTo(1);
        assertThat(star.rows(STAYS)).containsExactly("1|1|-1", "2|1|3");
    }

    @Test
    void aFactBeforeTheFirstVersionMayWaitForAnEarlierOne() {
        fact("hut: {as-of: night_on, before-first: unmatched}, guest: ", "");
        stays("2026-03-01", "1,HA,1,,2026-02-10,1,A\n2,HA,1,,2026-03-10,1,A\n");
        assertThat(loaded("2026-03-01").lookups().get("hut"))
                .containsEntry("unmatched", 1L)
                .containsEntry("matched", 1L)
                .containsEntry("early", 0L);
        assertThat(star.rows(STAYS)).containsExactly("1|-1|1", "2|1|1");
        huts("2026-03-02", "HA,2026-02-20,9\n");
        assertThat(star.load("2026-03-02").tables().get(3).count("healed"))
                .as("still too late")
                .isZero();
        huts("2026-03-03", "HA,2026-02-01,8\n");
        assertThat(loaded("2026-03-03").count("healed")).isEqualTo(1);
        assertThat(star.rows("select no, beds from fact_stay join dim_hut using (hut_key) order by no"))
                .containsExactly("1|8", "2|10");
    }

    @Test
    void aPlaceholderIsNotAbsentFromAnExtract() {
        star.write("dimensions/guest.yaml", """
                dimension: guest
                from: {files: "guests-{date}.csv", extract: full}
                key: guest_no
                attributes: {name: type 1}
                deletions: {absent: close, limit: 100%}
                """);
        fact("guest: {unmatched: placeholder}", "");
        stays("2026-03-01", "1,HA,7,7,2026-03-01,1,A\n");
        loaded("2026-03-01");
        guests("2026-03-02", "2,Berta\n");
        assertThat(star.loaded("2026-03-02", "dim_guest").count("absent")).isEqualTo(1);
        assertThat(star.rows("select guest_no, is_deleted, row_origin from dim_guest where guest_key > 0 order by 1"))
                .containsExactly("1|true|source", "2|false|source", "7|false|placeholder");
    }

    /** A natural key of which a part is missing is no value: nobody is made for it, at no load. */
    @Test
    void aKeyOfWhichAPartIsMissingIsBlank() {
        star.write("dimensions/room.yaml", """
                dimension: room
                from: {files: "rooms-{date}.csv", columns: {hut: varchar, room: varchar}}
                key: [hut, room]
                attributes: {beds: {type: 1, as: integer}}
                """);
        star.write("facts/sleep.yaml", """
                fact: sleep
                from: {files: "sleeps-{date}.csv", columns: {no: integer, hut: varchar, room: varchar}}
                grain: no
                lookups:
                  room: {unmatched: placeholder}
                  annex: {dimension: room, match: {hut: "'X'", room: room}}
                """);
        star.write("rooms-2026-03-01.csv", "hut,room,beds\nA,1,4\nX,1,2\n");
        star.write("sleeps-2026-03-01.csv", "no,hut,room\n1,A,1\n2,,1\n3,A,\n4,,\n5,A,9\n");
        for (int load = 1; load <= 2; load++) {
            TableEntry entry = star.loaded("2026-03-01", "fact_sleep");
            assertThat(entry.lookups().get("room")).containsEntry("blank", 3L);
            assertThat(entry.lookups().get("annex")).containsEntry("blank", 2L).containsEntry("unmatched", 1L);
        }
        assertThat(star.rows("select count(*) from dim_room where room_key > 0"))
                .containsExactly("3");
        assertThat(star.rows("select no, room_key, annex_key from fact_sleep order by no"))
                .containsExactly("1|1|2", "2|-2|2", "3|-2|-2", "4|-2|-2", "5|3|-1");
    }
}
