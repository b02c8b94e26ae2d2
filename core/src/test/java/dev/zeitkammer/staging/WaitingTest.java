package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Rows that wait for a partner, a member or a fact, and are staged again with the next delivery. */
@Tag("slow")
class WaitingTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder)
                .write("inputs/nights.yaml", """
                        input: nights
                        files: "{date}/nights.csv"
                        columns: {night: date, paid: "decimal(10,2)"}
                        """)
                .write(
                        "inputs/bookings.yaml",
                        "input: bookings\nfiles: \"{date}/bookings.csv\"\ncolumns: {booked: timestamp}\n")
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "{date}/huts.csv", columns: {beds: integer, since: date}}
                        key: hut_code
                        attributes: {beds: type 2}
                        history: {effective: since}
                        """)
                .write("2026-03-01/huts.csv", "hut_code,beds,since\nADL,4,2026-01-01\n");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void join(String details) {
        star.write("inputs/booked.yaml", """
                        input: booked
                        join:
                          from: nights
                          with: [{input: bookings, by: booking_no%s}]
                        """.formatted(details)).write("facts/night.yaml", """
                        fact: night
                        from: booked
                        grain: night_no
                        lookups: {hut: {as-of: night, unmatched: wait}}
                        degenerate: [guest, booked]
                        measures: {paid: "decimal(10,2)"}
                        """);
    }

    private static final String STORED = "select night_no, hut_key, guest, paid from fact_night order by 1";

    /** Nothing else is delivered on the second and third day than what is waited for. */
    @Test
    void whatCameIsFoundInTheSameLoad() {
        join(", without-partner: wait");
        star.write("2026-03-01/nights.csv", """
                        night_no,booking_no,hut_code,night,paid
                        1,1,BER,2026-03-01,10.50
                        2,2,ADL,2026-03-01,20.00
                        """)
                .write("2026-03-01/bookings.csv", "booking_no,guest,booked\n1,Anna,2026-01-01 10:00:00\n");
        assertThat(star.loaded("2026-03-01", "fact_night").count("waiting")).isEqualTo(2);
        star.write("2026-03-02/huts.csv", "hut_code,beds,since\nBER,4,2026-01-01\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts())
                .as("the member of a joined row")
                .containsEntry("staged", 1L)
                .containsEntry("new", 1L);
        star.write("2026-03-03/bookings.csv", "booking_no,guest,booked\n2,Berta,2026-01-01 10:00:00\n");
        assertThat(star.loaded("2026-03-03", "fact_night").counts())
                .as("the partner of a row")
                .containsEntry("staged", 1L)
                .containsEntry("new", 1L);
        assertThat(star.rows(STORED)).containsExactly("1|2|Anna|10.50", "2|1|Berta|20.00");
        assertThat(star.load("2026-03-04").tables())
                .as("nothing waits any more")
                .filteredOn(entry -> entry.table().equals("fact_night"))
                .allMatch(entry -> entry.status() == LoadStatus.SKIPPED);
    }

    @Test
    void anInputThatMustComeIsStillMissed() {
        star.write("facts/night.yaml", """
                        fact: night
                        from: {files: "{date}/nights.csv", required: true, assert: [{staged: 1..}]}
                        grain: night_no
                        lookups: {hut: {unmatched: wait}}
                        """).write("2026-03-01/nights.csv", "night_no,hut_code\n1,BER\n");
        star.loaded("2026-03-01", "fact_night");
        assertThat(star.failure("2026-03-02")).contains("requires one");
    }

    @Test
    void whatIsAssertedOfDeliveriesIsNotAskedWhereThereIsNone() {
        star.write("facts/night.yaml", """
                        fact: night
                        from: {files: "{date}/nights.csv", assert: [{staged: 2..}]}
                        grain: night_no
                        lookups: {hut: {unmatched: wait}}
                        """).write("2026-03-01/nights.csv", "night_no,hut_code\n1,BER\n2,ADL\n");
        star.loaded("2026-03-01", "fact_night");
        star.write("2026-03-02/huts.csv", "hut_code,beds,since\nBER,4,2026-01-01\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts()).containsEntry("new", 1L);
    }

    @Test
    void aRowWaitsForItsPartnerAndThenForItsMember() {
        join(", without-partner: wait");
        star.write(
                "inputs/nights.yaml",
                "input: nights\nfiles: \"{date}/nights.csv\"\ncolumns: {night: date, paid: \"decimal(10,2)\"}\n"
                        + "newer-than: night_no\n");
        star.write("2026-03-01/nights.csv", """
                        night_no,booking_no,hut_code,night,paid
                        1,1,ADL,2026-03-01,10.50
                        2,2,ADL,2026-03-01,20.00
                        3,3,BRG,2026-03-01,30.00
                        4,1,BRG,2026-03-01,40.00
                        5,1,ADL,2026-03-01,50.00
                        """)
                .write("2026-03-01/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01T10:00:00.123456\n");
        assertThat(star.loaded("2026-03-01", "fact_night").counts())
                .containsEntry("staged", 5L)
                .containsEntry("new", 2L)
                .containsEntry("waiting", 3L)
                .containsEntry("setAside", 0L);
        assertThat(star.waiting())
                .containsExactly(
                        "fact_night|2026-03-01|no partner|bookings|null|3|2,2,ADL,2026-03-01,20.00",
                        "fact_night|2026-03-01|no partner|bookings|null|4|3,3,BRG,2026-03-01,30.00",
                        "fact_night|2026-03-01|unmatched|hut_code|BRG|5|4,1,BRG,2026-03-01,40.00");
        star.write("2026-03-02/nights.csv", "night_no,booking_no,hut_code,night,paid\n6,3,ADL,2026-03-02,60.00\n")
                .write("2026-03-02/bookings.csv", "booking_no,guest,booked\n3,\"Gian, Mina\",2026-02-02T10:00:00\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts())
                .containsEntry("staged", 4L)
                .containsEntry("new", 1L)
                .containsEntry("waiting", 3L);
        assertThat(star.waiting())
                .containsExactly(
                        "fact_night|2026-03-01|no partner|bookings|null|3|2,2,ADL,2026-03-01,20.00",
                        "fact_night|2026-03-01|unmatched|hut_code|BRG|5|4,1,BRG,2026-03-01,40.00",
                        "fact_night|2026-03-02|unmatched|hut_code|BRG|4|3,3,BRG,2026-03-01,30.00");
        star.write("2026-03-03/nights.csv", "night_no,booking_no,hut_code,night,paid\n")
                .write("2026-03-03/bookings.csv", "booking_no,guest,booked\n2,Lu,2026-02-03\n")
                .write("2026-03-03/huts.csv", "hut_code,beds,since\nBRG,9,2026-01-01\n");
        assertThat(star.loaded("2026-03-03", "fact_night").counts())
                .containsEntry("staged", 3L)
                .containsEntry("new", 3L)
                .containsEntry("waiting", 0L);
        assertThat(star.rows(STORED))
                .containsExactly(
                        "1|1|Ada|10.50",
                        "2|1|Lu|20.00",
                        "3|2|Gian, Mina|30.00",
                        "4|2|Ada|40.00",
                        "5|1|Ada|50.00",
                        "6|1|Gian, Mina|60.00");
        assertThat(star.rows("select booked from fact_night where night_no = 4"))
                .as("what waited is what was delivered")
                .containsExactly("2026-02-01 10:00:00.123456");
        assertThat(star.waiting()).isEmpty();
        assertThat(star.setAside()).isEmpty();
    }

    @Test
    void aRowThatWaitedGivesWayToOneThatWasDeliveredLater() {
        join("");
        String header = "night_no,booking_no,hut_code,night,paid\n";
        star.write("2026-03-01/nights.csv", header + "1,1,BRG,2026-03-01,10.00\n2,1,BRG,2026-03-01,20.00\n")
                .write("2026-03-01/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n");
        star.loaded("2026-03-01", "fact_night");
        star.write("2026-03-02/nights.csv", header + "1,1,BRG,2026-03-01,11.00\n")
                .write("2026-03-02/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts())
                .containsEntry("staged", 3L)
                .containsEntry("unchanged", 1L)
                .containsEntry("waiting", 2L)
                .containsEntry("setAside", 0L);
        star.write("2026-03-03/nights.csv", header + "2,1,ADL,2026-03-01,22.00\n")
                .write("2026-03-03/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n")
                .write("2026-03-03/huts.csv", "hut_code,beds,since\nBRG,9,2026-01-01\n");
        assertThat(star.loaded("2026-03-03", "fact_night").counts())
                .containsEntry("staged", 3L)
                .containsEntry("new", 2L)
                .containsEntry("unchanged", 1L);
        assertThat(star.rows(STORED)).containsExactly("1|2|Ada|11.00", "2|1|Ada|22.00");
    }

    @Test
    void rowsOfOneDeliveryThatContradictEachOtherDoSoAlsoAfterTheyWaited() {
        join(", without-partner: wait");
        String header = "night_no,booking_no,hut_code,night,paid\n";
        star.write("2026-03-01/nights.csv", header + "1,7,ADL,2026-03-01,10.00\n1,7,ADL,2026-03-01,11.00\n")
                .write("2026-03-01/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n");
        star.loaded("2026-03-01", "fact_night");
        star.write("2026-03-02/nights.csv", header)
                .write("2026-03-02/bookings.csv", "booking_no,guest,booked\n7,Ada,2026-02-01\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts())
                .containsEntry("staged", 2L)
                .containsEntry("setAside", 2L);
        assertThat(star.setAside())
                .containsExactlyInAnyOrder(
                        "conflicting duplicate|night_no|null|2|1,7,ADL,2026-03-01,10.00",
                        "conflicting duplicate|night_no|null|3|1,7,ADL,2026-03-01,11.00");
        assertThat(star.waiting()).isEmpty();
    }

    @Test
    void aRowThatLacksTwoPartnersHasOneOutcome() {
        star.write("inputs/tariffs.yaml", "input: tariffs\nfiles: \"{date}/tariffs.csv\"\n")
                .write("inputs/booked.yaml", """
                        input: booked
                        join:
                          from: nights
                          with:
                            - {input: bookings, by: booking_no, without-partner: wait}
                            - {input: tariffs, by: night_no}
                        """)
                .write(
                        "facts/night.yaml",
                        "fact: night\nfrom: booked\ngrain: night_no\nmeasures: {paid: \"decimal(10,2)\"}\n")
                .write(
                        "2026-03-01/nights.csv",
                        "night_no,booking_no,hut_code,night,paid\n1,7,ADL,2026-03-01,10.00\n2,7,ADL,2026-03-01,20.00\n")
                .write("2026-03-01/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n")
                .write("2026-03-01/tariffs.csv", "night_no\n2\n");
        assertThat(star.loaded("2026-03-01", "fact_night").counts())
                .containsEntry("staged", 2L)
                .containsEntry("setAside", 1L)
                .containsEntry("waiting", 1L);
        assertThat(star.setAside()).containsExactly("no partner|tariffs|null|2|1,7,ADL,2026-03-01,10.00");
        assertThat(star.waiting()).hasSize(1);
    }

    @Test
    void nobodyIsTakenForAbsentWhileARowOfTheExtractLacksItsPartner() {
        star.write("inputs/booked.yaml", """
                        input: booked
                        extract: full
                        join: {from: nights, with: [{input: bookings, by: booking_no, without-partner: wait}]}
                        """)
                .write(
                        "dimensions/night.yaml",
                        "dimension: night\nfrom: booked\nkey: night_no\nattributes: {guest: type 2}\n"
                                + "deletions: {absent: close}\n");
        extract("2026-03-01", "1,1,ADL,2026-03-01,1.00\n2,1,ADL,2026-03-01,1.00\n");
        star.loaded("2026-03-01", "dim_night");
        extract("2026-03-02", "1,1,ADL,2026-03-01,1.00\n2,7,ADL,2026-03-01,1.00\n");
        assertThat(star.loaded("2026-03-02", "dim_night").counts())
                .containsEntry("absent", 0L)
                .containsEntry("waiting", 1L);
    }

    private void extract(String date, String nights) {
        star.write(date + "/nights.csv", "night_no,booking_no,hut_code,night,paid\n" + nights)
                .write(date + "/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n");
    }

    @Test
    void nobodyWaitsForADateThatIsMissingNorForABlank() {
        join("");
        star.write("2026-03-01/nights.csv", """
                        night_no,booking_no,hut_code,night,paid
                        1,1,BRG,,10.00
                        2,1,,2026-03-01,20.00
                        3,1,ADL,,30.00
                        """)
                .write("2026-03-01/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n");
        assertThat(star.loaded("2026-03-01", "fact_night").counts())
                .containsEntry("new", 1L)
                .containsEntry("setAside", 2L)
                .containsEntry("waiting", 0L);
        assertThat(star.setAside())
                .containsExactlyInAnyOrder(
                        "unmatched|hut_code|BRG|2|1,1,BRG,,10.00", "unmatched|hut_code|ADL|4|3,1,ADL,,30.00");
    }

    @Test
    void whatWaitsIsSetAsideWhenTheDefinitionNoLongerWaits() {
        join(", without-partner: wait");
        String header = "night_no,booking_no,hut_code,night,paid\n";
        star.write("2026-03-01/nights.csv", header + "1,7,ADL,2026-03-01,10.00\n")
                .write("2026-03-01/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n");
        star.loaded("2026-03-01", "fact_night");
        assertThat(star.waiting()).hasSize(1);
        join("");
        star.write("2026-03-02/nights.csv", header)
                .write("2026-03-02/bookings.csv", "booking_no,guest,booked\n1,Ada,2026-02-01\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts())
                .containsEntry("staged", 1L)
                .containsEntry("setAside", 1L);
        assertThat(star.setAside()).containsExactly("no partner|bookings|null|2|1,7,ADL,2026-03-01,10.00");
        assertThat(star.waiting()).isEmpty();
    }

    @Test
    void aFeedWaitsForItsFact() {
        star.write("facts/night.yaml", """
                        fact: night
                        from: {files: "{date}/nights.csv", columns: {night: date}, newer-than: night_no}
                        grain: night_no
                        lookups: {hut: {as-of: night}}
                        measures: {paid: "decimal(10,2)"}
                        feeds:
                          - from: {files: "{date}/payments.csv", newer-than: payment}
                            match: night_no
                            updates: paid
                            without-fact: wait
                        """)
                .write("2026-03-01/nights.csv", "night_no,hut_code,night\n1,ADL,2026-03-01\n")
                .write("2026-03-01/payments.csv", "payment,night_no,paid\n1,1,10.00\n2,2,20.00\n3,2,20.00\n");
        assertThat(star.loaded("2026-03-01", "fact_night").counts())
                .containsEntry("updated", 1L)
                .containsEntry("waiting", 1L)
                .containsEntry("repeated", 1L);
        assertThat(star.waiting()).containsExactly("fact_night|2026-03-01|no fact|night_no|null|3|2,2,20.00");
        star.write("2026-03-02/nights.csv", "night_no,hut_code,night\n2,ADL,2026-03-01\n")
                .write("2026-03-02/payments.csv", "payment,night_no,paid\n4,1,much\n5,3\n6,4,1,1\n7,a,1.00\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts())
                .containsEntry("waiting", 0L)
                .containsEntry("setAside", 4L)
                .containsEntry("updated", 1L);
        assertThat(star.rows("select night_no, paid from fact_night order by 1"))
                .containsExactly("1|10.00", "2|20.00");
        assertThat(star.waiting()).isEmpty();
    }

    @Test
    void membersWaitForAMemberOfAnotherDimension() {
        star.write("dimensions/room.yaml", """
                        dimension: room
                        from: {files: "{date}/rooms.csv", columns: {beds: integer}, extract: full}
                        key: room_no
                        attributes: {beds: type 2}
                        lookups: {hut: {type: 1, unmatched: wait}}
                        deletions: {absent: close}
                        """)
                .write("2026-03-01/rooms.csv", "room_no,hut_code,beds\n1,ADL,2\n2,BRG,3\n3,BRG,4\n");
        assertThat(star.loaded("2026-03-01", "dim_room").counts())
                .containsEntry("staged", 3L)
                .containsEntry("new", 1L)
                .containsEntry("waiting", 2L);
        star.write("2026-03-02/rooms.csv", "room_no,hut_code,beds\n1,ADL,2\n2,BRG,5\n")
                .write("2026-03-02/huts.csv", "hut_code,beds,since\nBRG,9,2026-01-01\n");
        assertThat(star.loaded("2026-03-02", "dim_room").counts())
                .containsEntry("staged", 4L)
                .containsEntry("new", 2L)
                .containsEntry("unchanged", 2L)
                .containsEntry("waiting", 0L);
        assertThat(star.rows("select room_no, hut_key, beds from dim_room where room_key > 0 order by 1"))
                .containsExactly("1|1|2", "2|2|5", "3|2|4");
        star.write("2026-03-03/rooms.csv", "room_no,hut_code,beds\n1,ADL,2\n2,BRG,5\n3,CIM,4\n");
        assertThat(star.loaded("2026-03-03", "dim_room").counts())
                .as("a member whose row waits is there")
                .containsEntry("absent", 0L)
                .containsEntry("waiting", 1L);
        star.write("2026-03-04/rooms.csv", "room_no,hut_code,beds\n1,ADL,2\n2,BRG,5\n");
        assertThat(star.loaded("2026-03-04", "dim_room").counts())
                .as("what waited is no part of the extract")
                .containsEntry("absent", 1L)
                .containsEntry("waiting", 1L);
        star.write("2026-03-05/rooms.csv", "room_no,hut_code,beds\n1,ADL,2\n2,CIM,6\n")
                .load("2026-03-05");
        star.write("2026-03-06/rooms.csv", "room_no,hut_code,beds\n1,ADL,2\n")
                .write("2026-03-06/huts.csv", "hut_code,beds,since\nCIM,4,2026-01-01\n");
        assertThat(star.loaded("2026-03-06", "dim_room").counts())
                .as(
                        "a member that is absent ends, though a row of it waited; one that ended before is judged next time")
                .containsEntry("versioned", 1L)
                .containsEntry("returned", 1L)
                .containsEntry("absent", 1L);
        assertThat(
                        star.rows(
                                "select room_no, beds, version, valid_from, valid_to, is_deleted from dim_room where room_no in (2, 3) order by 1, 3"))
                .containsExactly(
                        "2|5|1|2026-03-02|2026-03-06|false",
                        "2|6|2|2026-03-06|2026-03-07|true",
                        "3|4|1|2026-03-02|2026-03-04|true",
                        "3|4|2|2026-03-06|9999-12-31|false");
    }

    @Test
    void aSnapshotIsNotReplacedByWhatWaited() {
        star.write("facts/night.yaml", """
                        fact: night
                        from: {files: "{date}/nights.csv", columns: {night: date}}
                        grain: [night, night_no]
                        replaces: night
                        lookups: {hut: {as-of: night, unmatched: wait}}
                        measures: {paid: "decimal(10,2)"}
                        """)
                .write(
                        "2026-03-01/nights.csv",
                        "night_no,hut_code,night,paid\n1,ADL,2026-03-01,10.00\n2,BRG,2026-03-01,20.00\n");
        star.loaded("2026-03-01", "fact_night");
        star.write("2026-03-02/nights.csv", "night_no,hut_code,night,paid\n1,ADL,2026-03-02,11.00\n")
                .write("2026-03-02/huts.csv", "hut_code,beds,since\nBRG,9,2026-01-01\n");
        assertThat(star.loaded("2026-03-02", "fact_night").counts())
                .containsEntry("new", 2L)
                .containsEntry("removed", 0L);
        assertThat(star.rows("select night, night_no from fact_night order by 1, 2"))
                .containsExactly("2026-03-01|1", "2026-03-01|2", "2026-03-02|1");
    }
}
