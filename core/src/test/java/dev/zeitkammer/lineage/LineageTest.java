package dev.zeitkammer.lineage;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Where columns come from, against lists made by hand. */
class LineageTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder)
                .write("inputs/nights.yaml", """
                        input: nights
                        files: "nights-{date}.csv"
                        where: "cancelled is null"
                        """)
                .write("inputs/bookings.yaml", """
                        input: bookings
                        files: "bookings-{date}.csv"
                        keep: {by: booking_no}
                        """)
                .write("inputs/tariffs.yaml", "input: tariffs\nfiles: tariffs.csv\n")
                .write("inputs/both.yaml", """
                        input: both
                        join:
                          from: nights
                          with:
                            - {input: bookings, by: booking_no}
                            - {input: tariffs, by: {code: "upper(nights.tariff)"}, optional: true}
                        """)
                .write("inputs/people.yaml", """
                        input: people
                        query: |
                          with named as (
                            select b.guest_no, trim(b.guest) as name, b.booked_on from bookings as b where b.channel <> 'x'
                          )
                          select guest_no, name, max(booked_on) as seen, (select count(*) from tariffs) as tariffs from named group by all
                          union all
                          select o.number, o.called || o.town, null, 0 from office.old_guests as o
                        """)
                .write("dimensions/guest.yaml", """
                        dimension: guest
                        from: people
                        key: {guest_no: "cast(guest_no as integer)"}
                        attributes: {name: {type: 3, previous: former_name}, seen: type 2}
                        lookups: {recommended_by: {dimension: guest, match: "abs(tariffs)", type: 1, hierarchy: true}}
                        current-view: guest_now
                        """)
                .write("dimensions/warden.yaml", """
                        dimension: warden
                        from: {files: wardens.csv}
                        key: warden_no
                        all-others: type 1
                        surrogate: hash
                        member-key: true
                        deletions: {when: "gone = 'Y'"}
                        publish: {to: "out/{table}"}
                        """)
                .write("dimensions/calendar.yaml", """
                        dimension: calendar
                        kind: calendar
                        days: 2026-01-01..2026-12-31
                        from: {files: days.csv}
                        attributes: {season: {as: varchar}, label: {take: "month_short || season", as: varchar}}
                        """)
                .write("dimensions/way.yaml", "dimension: way\nkind: combination\nattributes: [channel, tariff]\n")
                .write("facts/night.yaml", fact())
                .write("facts/guest_year.yaml", """
                        fact: guest_year
                        from: {query: "select payer_key as payer, sum(paid) as total from fact_night group by 1"}
                        grain: [payer]
                        measures: {total: "decimal(12,2)"}
                        """)
                .write(
                        "nights-2026-03-01.csv",
                        "booking_no,night_on,warden,tariff,guests,cancelled,rooms\n1,2026-03-01,1,a,2,,1\n")
                .write(
                        "bookings-2026-03-01.csv",
                        "booking_no,guest_no,guest,booked_on,channel,tariff\n1,7,Resi,2026-02-01,web,a\n")
                .write("tariffs.csv", "code,rate\nA,10\n")
                .write("wardens.csv", "warden_no,name,gone,phone\n1,Toni,N,5\n")
                .write("days.csv", "day,season\n2026-03-01,winter\n")
                .write("paid-2026-03-01.csv", "booking_no,extra\n1,5\n");
    }

    /** Twelve lookups of five dimensions. */
    private static String fact() {
        StringBuilder roles = new StringBuilder();
        for (int role = 1; role <= 8; role++) {
            roles.append("  day_%d: {dimension: calendar, match: night_on}\n".formatted(role));
        }
        return """
                fact: night
                from: both
                grain: {night: night_on, booking: booking_no}
                lookups:
                %s\
                  payer: {dimension: guest, match: guest_no, as-of: booked_on, unmatched: placeholder}
                  warden: {match: warden, member-key: true}
                  deputy: {dimension: warden, match: "coalesce(warden, 0)"}
                  way: {match: [channel, tariff]}
                measures:
                  paid: {as: "decimal(10,2)", take: "guests * rate"}
                  more: {as: "decimal(10,2)", take: "extra + stored.paid"}
                  booked_tariff: {as: integer, take: "length(bookings_tariff)"}
                  odd: {as: integer, take: "len([x for x in [guests]])"}
                deletions: {when: "rooms = 0", rows: mark}
                feeds:
                  - {from: {files: "paid-{date}.csv"}, match: {booking: booking_no}, updates: [more]}
                """.formatted(roles);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private Lineage lineage() {
        return DefinitionLineage.of(star.project(), Headers.newest(star.project(), star.warehouse()));
    }

    private static List<String> into(Lineage lineage, String column) {
        Field field = lineage.named(column).column().orElseThrow();
        return lineage.into(field).stream()
                .map(flow -> flow.part().word() + " " + flow.from())
                .toList();
    }

    private static List<String> origins(Lineage lineage, String column) {
        return lineage.origins(lineage.named(column).column().orElseThrow()).stream()
                .map(Field::toString)
                .toList();
    }

    @Test
    void lookupsAreFoundByStagedColumnsThroughJoinsAndExpressions() {
        Lineage lineage = lineage();
        assertThat(into(lineage, "night.payer_key"))
                .containsExactlyInAnyOrder(
                        "value dim_guest.guest_key", "found by both.guest_no", "valid at both.booked_on");
        assertThat(into(lineage, "night.deputy_key"))
                .containsExactlyInAnyOrder("value dim_warden.warden_key", "found by both.warden");
        assertThat(into(lineage, "night.warden_member_key"))
                .containsExactlyInAnyOrder("value dim_warden.warden_member_key", "found by both.warden");
        for (int role = 1; role <= 8; role++) {
            assertThat(into(lineage, "night.day_" + role + "_key"))
                    .containsExactlyInAnyOrder("value dim_calendar.calendar_key", "found by both.night_on");
        }
        assertThat(origins(lineage, "night.deputy_key"))
                .containsExactlyInAnyOrder("wardens.csv.warden_no", "nights-{date}.csv.warden");
        assertThat(into(lineage, "both.guest_no")).containsExactly("value bookings.guest_no");
        assertThat(into(lineage, "both.bookings_tariff")).containsExactly("value bookings.tariff");
        assertThat(into(lineage, "both.tariff")).containsExactly("value nights.tariff");
    }

    @Test
    void measuresComeThroughExpressionsJoinsFeedsAndWhatIsStored() {
        Lineage lineage = lineage();
        assertThat(origins(lineage, "night.paid"))
                .containsExactlyInAnyOrder("nights-{date}.csv.guests", "tariffs.csv.rate");
        assertThat(into(lineage, "night.more"))
                .containsExactlyInAnyOrder("value fact_night.paid", "value night_feed_1.extra");
        assertThat(origins(lineage, "night.booked_tariff")).containsExactly("bookings-{date}.csv.tariff");
        assertThat(into(lineage, "night.night")).containsExactly("value both.night_on");
        assertThat(origins(lineage, "guest_year.total"))
                .containsExactlyInAnyOrder("nights-{date}.csv.guests", "tariffs.csv.rate");
    }

    @Test
    void queriesAreReadWithTheirUnionsAndNamedParts() {
        Lineage lineage = lineage();
        assertThat(into(lineage, "people.name"))
                .containsExactlyInAnyOrder(
                        "value bookings.guest", "value office.old_guests.called", "value office.old_guests.town");
        assertThat(into(lineage, "people.seen")).containsExactly("value bookings.booked_on");
        assertThat(into(lineage, "guest.former_name")).containsExactly("value dim_guest.name");
        assertThat(into(lineage, "dim_guest.guest_no"))
                .containsExactlyInAnyOrder("value people.guest_no", "placeholder both.guest_no");
        assertThat(into(lineage, "dim_guest.guest_key")).containsExactly("one for each dim_guest.guest_no");
    }

    @Test
    void othersCalendarsCombinationsViewsAndFilesAreThere() {
        Lineage lineage = lineage();
        assertThat(into(lineage, "warden.phone")).containsExactly("value warden.phone");
        assertThat(into(lineage, "dim_calendar.label"))
                .containsExactlyInAnyOrder("value dim_calendar.month_short", "value calendar.season");
        assertThat(into(lineage, "way.channel")).containsExactly("value both.channel");
        assertThat(lineage.outOf(lineage.named("guest.seen").column().orElseThrow()).stream()
                        .map(flow -> flow.to().toString()))
                .containsExactly("guest_now.seen");
        assertThat(into(lineage, "out/dim_warden.name")).containsExactly("value dim_warden.name");
        assertThat(Stream.of("fact_night", "nights", "both", "bookings", "dim_warden")
                        .map(lineage::named)
                        .flatMap(named -> lineage.rules(named.dataset()).stream())
                        .map(Rule::words))
                .containsExactly(
                        "a fact is cancelled where rooms = 0",
                        "fed by night_feed_1: more",
                        "rows where cancelled is null",
                        "joined by nights: booking_no = bookings: booking_no",
                        "joined by nights: upper(nights.tariff) = tariffs: code",
                        "the latest row of each booking_no is kept",
                        "a member ends where gone = 'Y'");
    }

    @Test
    void whatCannotBeReadCountsAsAllStagedColumnsAndSaysSo() {
        Lineage lineage = lineage();
        assertThat(into(lineage, "night.odd")).hasSizeGreaterThan(10).contains("value both.rooms", "value both.rate");
        assertThat(lineage.unread())
                .containsExactly(
                        "facts/night.yaml:21:28: the expression \"len([x for x in [guests]])\" could not be read;"
                                + " every column that it may use counts as used");
    }

    @Test
    void withoutDeliveriesColumnsAreThoseThatDefinitionsName() {
        Lineage lineage = DefinitionLineage.of(star.project(), Headers.UNKNOWN);
        assertThat(into(lineage, "night.payer_key"))
                .containsExactlyInAnyOrder(
                        "value dim_guest.guest_key", "found by both.guest_no", "valid at both.booked_on");
        assertThat(into(lineage, "both.guest_no"))
                .containsExactlyInAnyOrder(
                        "value nights.guest_no", "value bookings.guest_no", "value tariffs.guest_no");
    }

    @Test
    void namesThatAreNotThereAreAnsweredWithTheNearest() {
        Lineage lineage = lineage();
        assertThatThrownBy(() -> lineage.named("night.payed"))
                .isInstanceOf(UsageException.class)
                .hasMessage("fact_night has no column \"payed\"; did you mean \"paid\"?");
        assertThatThrownBy(() -> lineage.named("nigths"))
                .isInstanceOf(UsageException.class)
                .hasMessageStartingWith(
                        "There is no table or input \"nigths\" in this project; did you mean \"nights\"?");
    }
}
