package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Names, keys, reserved members and calendars of a warehouse's own. */
class OwnNamesTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void emptyStar() {
        star = new TestStar(folder);
    }

    @Test
    void keysAndGrainAreTakenFromExpressionsAndLookupsFindThem() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {CODE: varchar}}
                key: {hut_code: "upper(trim(CODE))"}
                attributes: {beds: {type: 2, as: integer}}
                surrogate: {column: hut_sk}
                """).write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {night: date, hut: varchar, no: varchar}}
                grain: {visit: "'v' || no"}
                lookups: {hut: {column: hut_sk, match: "upper(hut)", about: The hut of the night}}
                degenerate: {night_on: night, day_no: {take: "length(no) + 1", about: Made up}}
                measures: {guests: integer}
                about: Nights
                """);
        star.write("huts-2026-03-01.csv", "CODE,beds\n adl,30\nber ,12\n");
        star.write(
                "stays-2026-03-01.csv",
                "no,hut,night,guests\n1,Adl,2026-02-01,2\n2,bER,2026-02-02,3\n3,xxx,2026-02-02,1\n");
        star.load("2026-03-01")
                .tables()
                .forEach(table -> assertThat(table.error()).isEmpty());
        assertThat(star.rows("select s.visit, h.hut_code, s.night_on, s.day_no, s.guests from fact_stay as s"
                        + " join dim_hut as h on h.hut_sk = s.hut_sk order by s.visit"))
                .containsExactly("v1|ADL|2026-02-01|2|2", "v2|BER|2026-02-02|2|3", "v3|null|2026-02-02|2|1");
        assertThat(star.warehouse().comments("fact_stay"))
                .containsEntry("", "Nights")
                .containsEntry("hut_sk", "The hut of the night");
        star.write("huts-2026-03-02.csv", "CODE,beds\nXXX,8\nADL,30\n");
        star.write("stays-2026-03-02.csv", "no,hut,night,guests\n1,ber,2026-02-01,2\n");
        star.load("2026-03-02");
        assertThat(
                        star.rows(
                                "select s.visit, h.hut_code from fact_stay as s join dim_hut as h on h.hut_sk = s.hut_sk order by s.visit"))
                .as("the fact of a hut that came finds it, and one that was delivered anew points at another")
                .containsExactly("v1|BER", "v2|BER", "v3|XXX");
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .allMatch(verdict -> verdict.holds());
    }

    @Test
    void columnsOfFactsAndKeysAreRenamed() {
        String fact = """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {no: integer}}
                grain: %s
                lookups: {hut: {match: code%s}}
                degenerate: %s
                measures: {guests: %s}
                """;
        star.write(
                        "dimensions/hut.yaml",
                        "dimension: hut\nfrom: {files: \"huts-{date}.csv\"}\nkey: code\nattributes: {beds: type 1}\n")
                .write("facts/stay.yaml", fact.formatted("no", "", "way", "integer"))
                .write("huts-2026-03-01.csv", "code,beds\nADL,30\n")
                .write("stays-2026-03-01.csv", "no,code,way,guests\n1,ADL,web,2\n");
        star.load("2026-03-01");
        star.write(
                "facts/stay.yaml",
                fact.formatted(
                                "{visit: {take: no, was: no}}",
                                ", column: hut_id, was: hut_key",
                                "{channel: {take: way, was: way}}",
                                "integer")
                        .replace("guests: integer", "people: {as: integer, take: guests, was: guests}"));
        star.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: \"huts-{date}.csv\"}\nkey: {hut_code: {take: code, was: code, about: Painted on the door}}\nattributes: {beds: type 1}\n");
        star.write("huts-2026-03-02.csv", "code,beds\nADL,31\n");
        star.write("stays-2026-03-02.csv", "no,code,way,guests\n1,ADL,web,5\n2,ADL,phone,1\n");
        star.load("2026-03-02")
                .tables()
                .forEach(table -> assertThat(table.error()).isEmpty());
        assertThat(star.rows("select visit, hut_id, channel, people from fact_stay order by visit"))
                .containsExactly("1|1|web|5", "2|1|phone|1");
        assertThat(star.rows("select hut_key, hut_code, beds from dim_hut where hut_key > 0"))
                .containsExactly("1|ADL|31");
        assertThat(star.warehouse().columns("fact_stay"))
                .extracting(column -> column.name())
                .doesNotContain("no", "way", "guests", "hut_key");
        assertThat(star.warehouse().comments("dim_hut")).containsEntry("hut_code", "Painted on the door");
    }

    @Test
    void smartKeysComeFromTheDeliveryAndAreGuarded() {
        star.write("dimensions/area.yaml", """
                dimension: area
                from: {files: "areas-{date}.csv", columns: {no: integer}}
                key: code
                attributes: {title: type 1}
                surrogate: {column: area_id, take: "1000 + no"}
                """);
        star.write("areas-2026-03-01.csv", "code,no,title\nN,1,North\nS,2,South\nX,,Nowhere\nY,-2000,Below\n");
        assertThat(star.loaded("2026-03-01", "dim_area").counts())
                .containsEntry("new", 2L)
                .containsEntry("setAside", 2L);
        assertThat(star.rows("select area_id, code, title from dim_area order by area_id"))
                .containsExactly("-2|null|Not applicable", "-1|null|Unknown", "1001|N|North", "1002|S|South");
        assertThat(star.setAside().get(0)).startsWith("bad value|area_id|null|4|");
        star.write("areas-2026-03-02.csv", "code,no,title\nN,7,Far north\nW,3,West\n");
        star.loaded("2026-03-02", "dim_area");
        assertThat(star.rows("select area_id, title from dim_area where code in ('N', 'W') order by 1"))
                .as("a key never changes")
                .containsExactly("1001|Far north", "1003|West");
        star.write("areas-2026-03-03.csv", "code,no,title\nE,3,East\n");
        assertThat(star.failure("2026-03-03"))
                .contains("The surrogate key 1003 of dim_area would be given a second time");
    }

    @Test
    void namedReservedMembersStandInWhereLookupsSaySo() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date}}
                key: code
                attributes: {title: type 1, beds: {type: 2, as: integer}}
                history: {effective: since}
                deletions: {when: "beds = -1"}
                reserved:
                  late: {key: -3, title: Delivered late}
                  given-up: {key: -4}
                """).write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {night: date}}
                grain: no
                lookups: {hut: {match: code, as-of: night, unmatched: late, blank: unknown, ended: given-up}}
                measures: {guests: integer}
                """);
        star.write(
                "huts-2026-03-01.csv",
                "code,title,beds,since\nADL,Adlerhorst,30,2026-01-01\nBER,Bergli,12,2026-01-01\n");
        star.write("huts-2026-03-02.csv", "code,title,beds,since\nBER,Bergli,-1,2026-02-01\n");
        star.load("2026-03-01");
        star.load("2026-03-02");
        star.write("stays-2026-03-03.csv", """
                no,code,night,guests
                1,ADL,2026-02-02,1
                2,BER,2026-01-20,1
                3,BER,2026-02-02,1
                4,NEW,2026-02-02,1
                5,,2026-02-02,1
                """);
        assertThat(star.loaded("2026-03-03", "fact_stay").lookups().get("hut"))
                .containsEntry("ended", 1L)
                .containsEntry("unmatched", 1L)
                .containsEntry("blank", 1L)
                .containsEntry("matched", 2L);
        assertThat(
                        star.rows(
                                "select s.no, s.hut_key, h.title from fact_stay as s join dim_hut as h on h.hut_key = s.hut_key order by s.no"))
                .containsExactly(
                        "1|1|Adlerhorst", "2|2|Bergli", "3|-4|Given up", "4|-3|Delivered late", "5|-1|Unknown");
        star.write("huts-2026-03-04.csv", "code,title,beds,since\nNEW,Neuhaus,4,2026-02-01\n");
        star.load("2026-03-04");
        assertThat(star.rows("select hut_key from fact_stay where no = '4' or no = 4"))
                .as("who was delivered late is found")
                .containsExactly("3");
    }

    @Test
    void membersThatEndedStopOrSetAside() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv"}
                key: code
                attributes: {beds: {type: 1, as: integer}}
                deletions: {when: "beds = -1"}
                """).write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv"}
                grain: no
                lookups: {hut: {match: code, ended: set-aside}}
                measures: {guests: integer}
                """);
        star.write("huts-2026-03-01.csv", "code,beds\nADL,30\nBER,12\n")
                .write("huts-2026-03-02.csv", "code,beds\nBER,-1\n");
        star.load("2026-03-01");
        star.write("stays-2026-03-02.csv", "no,code,guests\n1,ADL,2\n2,BER,2\n");
        assertThat(star.loaded("2026-03-02", "fact_stay").counts())
                .containsEntry("new", 1L)
                .containsEntry("setAside", 1L);
        assertThat(star.setAside()).containsExactly("ended|code|BER|3|2,BER,2");
        star.write("facts/stay.yaml", star.read("facts/stay.yaml").replace("set-aside", "stop"));
        star.write("stays-2026-03-03.csv", "no,code,guests\n3,BER,2\n");
        assertThat(star.failure("2026-03-03")).contains("The lookup \"hut\" stops the load");
    }

    @Test
    void calendarsHaveColumnsOfTheirOwn() {
        star.write("days.csv", "day,season,saint\n2026-01-01,winter,\n2026-07-01,summer,Theobald\n");
        star.write("dimensions/calendar.yaml", """
                dimension: calendar
                kind: calendar
                days: 2026-01-01..2026-12-31
                week-starts: sunday
                week-numbers: true
                from: {files: days.csv}
                attributes:
                  season: {as: varchar, about: When huts are open}
                  saint: {}
                  is_long: {as: boolean, take: "day_of_month = 31"}
                  label: {take: "concat(month_short, ' ', season)"}
                """);
        star.loaded("2026-03-01", "dim_calendar");
        assertThat(star.rows("select day, week_number, day_of_week, season, saint, is_long, label from dim_calendar"
                        + " where calendar_key in (20260101, 20260103, 20260104, 20260701, 20261231) order by day"))
                .containsExactly(
                        "2026-01-01|1|5|winter|null|false|Jan winter",
                        "2026-01-03|1|7|null|null|false|Jan ",
                        "2026-01-04|2|1|null|null|false|Jan ",
                        "2026-07-01|27|4|summer|Theobald|false|Jul summer",
                        "2026-12-31|53|5|null|null|true|Dec ");
        star.write("days.csv", "day,season,saint\n2026-01-02,spring,\n");
        star.loaded("2026-03-02", "dim_calendar");
        assertThat(
                        star.rows(
                                "select day, season from dim_calendar where season is not null and calendar_key > 0 order by day"))
                .containsExactly("2026-01-02|spring");
        star.write("days.csv", "day,season,saint\n2026-01-02,spring,\n2026-01-02,fall,\n");
        assertThat(star.failure("2026-03-03")).contains("The days of calendar have 2026-01-02 2 times");
        star.write("dimensions/calendar.yaml", """
                dimension: calendar
                kind: calendar
                days: 2026-01-01..2026-12-31
                attributes: {label: {take: "monht || 'x'"}}
                """);
        assertThat(star.failure("2026-03-04"))
                .contains(
                        "dimensions/calendar.yaml:4:28: \"take\" of \"label\" cannot be evaluated over the calendar's columns");
        star.write(
                "dimensions/calendar.yaml",
                "dimension: calendar\nkind: calendar\ndays: 2026-01-01..2026-12-31\nattributes: {label: {}}\n");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("\"label\" comes from nowhere");
    }

    @Test
    void feedsWriteDegenerates() {
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {no: integer}}
                grain: no
                degenerate: {channel: way, room: room_no}
                measures: {guests: integer}
                feeds:
                  - {from: {files: "rooms-{date}.csv", columns: {no: integer}}, match: no, updates: [room]}
                """);
        star.write("stays-2026-03-01.csv", "no,way,guests\n1,web,2\n2,phone,2\n");
        star.load("2026-03-01");
        star.write("rooms-2026-03-02.csv", "no,room_no\n1,12b\n");
        star.write("stays-2026-03-02.csv", "no,way,guests\n1,web,3\n");
        star.load("2026-03-02")
                .tables()
                .forEach(table -> assertThat(table.error()).isEmpty());
        assertThat(star.rows("select no, channel, room, guests from fact_stay order by no"))
                .containsExactly("1|web|12b|3", "2|phone|null|2");
    }

    @Test
    void feedsComputeOfWhatIsStored() {
        star.write("facts/booking.yaml", """
                fact: booking
                from: {files: "bookings-{date}.csv", columns: {booked_on: date}}
                grain: [no, room]
                degenerate: booked_on
                measures: {guests: integer, days_ahead: {as: integer, take: "arrived_on - stored.booked_on"}, heads: {as: integer, take: "stored.guests * factor"}}
                feeds:
                  - {from: {files: "arrivals-{date}.csv", columns: {arrived_on: date, factor: integer}}, match: no, updates: [days_ahead, heads]}
                """);
        star.write(
                "bookings-2026-03-01.csv",
                "no,room,booked_on,guests\nb1,1,2026-02-01,2\nb1,2,2026-02-11,3\nb2,1,2026-02-01,4\n");
        star.load("2026-03-01")
                .tables()
                .forEach(table -> assertThat(table.error()).isEmpty());
        star.write("arrivals-2026-03-02.csv", "no,arrived_on,factor\nb1,2026-02-21,2\n");
        star.load("2026-03-02")
                .tables()
                .forEach(table -> assertThat(table.error()).isEmpty());
        assertThat(star.rows(
                        "select no, room, guests, days_ahead, heads, updated_by from fact_booking order by no, room"))
                .containsExactly("b1|1|2|20|4|2", "b1|2|3|10|6|2", "b2|1|4|null|null|1");
        star.write("arrivals-2026-03-03.csv", "no,arrived_on,factor\nb1,2026-02-21,2\n");
        assertThat(star.loaded("2026-03-03", "fact_booking").counts()).containsEntry("unchanged", 1L);
        star.write("facts/booking.yaml", star.read("facts/booking.yaml").replace("stored.booked_on", "stored.booked"));
        assertThat(star.failure("2026-03-03")).contains("facts/booking.yaml:5:", "fact_booking has no column booked");
    }
}
