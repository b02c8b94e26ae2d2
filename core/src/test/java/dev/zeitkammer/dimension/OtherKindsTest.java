package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;

/** Combinations, calendars, reserved values, hourly loads, and names that need quoting. */
class OtherKindsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        star.close();
    }

    @Test
    void aCombinationHasOneMemberForEachDistinctSetOfValuesNullIncluded() {
        star.write("dimensions/flags.yaml", """
                        dimension: booking_flags
                        kind: combination
                        from: {files: "bookings-{date}.csv", columns: {member: varchar, paid: boolean}}
                        attributes: {member: , paid: , season: {take: "case when month > 5 then 'summer' else 'winter' end"}}
                        """)
                .write("bookings-2026-03-01.csv", "member,paid,month\nyes,true,1\nyes,true,2\n,true,7\n,,1\n");
        assertThat(star.loaded("2026-03-01", "dim_booking_flags").counts())
                .containsEntry("new", 3L)
                .containsEntry("repeated", 1L)
                .containsEntry("setAside", 0L);
        star.write("bookings-2026-03-02.csv", "member,paid,month\n,true,8\nno,true,8\n");
        assertThat(star.loaded("2026-03-02", "dim_booking_flags").counts())
                .containsEntry("new", 1L)
                .containsEntry("unchanged", 1L);
        assertThat(star.rows("select booking_flags_key, member, paid, season from dim_booking_flags order by 1"))
                .containsExactly(
                        "-2|Not applicable|null|Not applicable",
                        "-1|Unknown|null|Unknown",
                        "1|yes|true|winter",
                        "2|null|true|summer",
                        "3|null|null|winter",
                        "4|no|true|summer");
    }

    @Test
    void aCalendarKnowsHolidaysAndTheDayOnWhichWeeksBegin() {
        star.write("dimensions/calendar.yaml", """
                        dimension: calendar
                        kind: calendar
                        days: 2026-03-01..2026-03-10
                        week-starts: sunday
                        holidays: holidays.csv
                        """)
                .write("holidays.csv", "day,name\n2026-03-06,Hut day\n2026-03-06,\"Snow, again\"\n2025-01-01,Gone\n");
        star.loaded("2026-03-01", "dim_calendar");
        assertThat(star.rows("select calendar_key, day_of_week, week_label, is_holiday, holiday_name from dim_calendar"
                        + " where day in ('2026-03-01', '2026-03-06', '2026-03-08') order by 1"))
                .containsExactly(
                        "20260301|1|1 – 7 Mar 2026|false|null",
                        "20260306|6|1 – 7 Mar 2026|true|Hut day / Snow, again",
                        "20260308|1|8 – 14 Mar 2026|false|null");
        star.write("holidays.csv", "day,name\nsoon,Hut day\n");
        assertThat(star.failure("2026-03-01")).contains("whose day is no date, such as \"soon\"");
    }

    @Test
    void aCalendarOfMinutesIsFoundByTimesAndTimestamps() {
        star.write("dimensions/clock.yaml", "dimension: clock\nkind: calendar\ngrain: minute\n")
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays.csv", columns: {arrived_at: timestamp, left_at: time}}
                        grain: no
                        lookups: {arrived: {dimension: clock, match: arrived_at}, gone: {dimension: clock, match: left_at}}
                        """)
                .write("stays.csv", "no,arrived_at,left_at\n1,2026-03-01 14:05:59,00:00:30\n2,,\n");
        star.load("2026-03-01");
        assertThat(star.rows("select count(*), min(clock_key), max(clock_key) from dim_clock where clock_key >= 0"))
                .containsExactly("1440|0|2359");
        assertThat(star.rows("select minute, hour_of_day, minute_of_day, minute_label, hour_label, is_before_noon"
                        + " from dim_clock where clock_key = 1405"))
                .containsExactly("14:05|14|845|14:05|14:00 – 14:59|false");
        assertThat(star.rows("select no, arrived_key, gone_key from fact_stay order by no"))
                .containsExactly("1|1405|0", "2|-2|-2");
    }

    @Test
    void reservedMembersHaveTheValuesThatTheDefinitionGives() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: huts.csv, columns: {beds: integer}}
                        key: code
                        attributes: {name: type 1, beds: type 1}
                        reserved: {unknown: {name: No hut we know, beds: 0}, not-applicable: {name: No hut}}
                        """).write("huts.csv", "code,name,beds\nA,Alpha,4\n");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(star.rows("select hut_key, code, name, beds from dim_hut order by 1"))
                .containsExactly("-2|null|No hut|null", "-1|null|No hut we know|0", "1|A|Alpha|4");
    }

    @Test
    void hourlyLoadsOrderTheHistoryByTheirMoment() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "{date}/{time}.csv"}
                        key: code
                        attributes: {beds: type 2}
                        """)
                .write("2026-03-01/0000.csv", "code,beds\nA,1\n")
                .write("2026-03-01/1400.csv", "code,beds\nA,2\n")
                .write("2026-03-01/1530.csv", "code,beds\nA,3\n");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(star.loaded("2026-03-01T14:00", "dim_hut").count("versioned"))
                .isEqualTo(1);
        star.loaded("2026-03-01T15:30", "dim_hut");
        assertThat(star.rows("select beds, valid_from, valid_to from dim_hut where hut_key > 0 order by 2"))
                .containsExactly(
                        "1|2026-03-01 00:00:00.0|2026-03-01 14:00:00.0",
                        "2|2026-03-01 14:00:00.0|2026-03-01 15:30:00.0",
                        "3|2026-03-01 15:30:00.0|9999-12-31 00:00:00.0");
        assertThat(star.failure("2026-03-01T14:00")).contains("2026-03-01T14:00 is older");
    }

    @Test
    void namesMayBeAnything() {
        star.write("dimensions/odd.yaml", """
                        dimension: "hütte \\"x\\""
                        table: select
                        from: {files: odd.csv, columns: {order: varchar}}
                        key: ["Code Nr", order]
                        attributes: {"größe m²": type 2, "a\\"b": type 1, from: type 2, "zimmer; drop table x": {type: 3, previous: "vorher %s"}}
                        current-view: "jetzt 100%"
                        """)
                .write(
                        "odd.csv",
                        "Code Nr,order,größe m²,\"a\"\"b\",from,zimmer; drop table x\n1,x,5,q,f,z\n2,'';--,5,q,f,z\n");
        star.loaded("2026-03-01", "select");
        star.write("odd.csv", "order,from,Code Nr,größe m²,\"a\"\"b\",zimmer; drop table x\nx,g,1,5,r,y\n");
        TableEntry again = star.loaded("2026-03-02", "select");
        assertThat(again.counts()).containsEntry("versioned", 1L);
        assertThat(
                        star.rows(
                                "select \"hütte \"\"x\"\"_key\", \"Code Nr\", \"order\", \"größe m²\", \"a\"\"b\", \"from\","
                                        + " \"zimmer; drop table x\", \"vorher %s\" from \"select\" where \"hütte \"\"x\"\"_key\" > 0 order by 1"))
                .containsExactly("1|1|x|5|r|f|y|z", "2|2|'';--|5|q|f|z|null", "3|1|x|5|r|g|y|z");
        assertThat(star.rows("select count(*) from \"jetzt 100%\"")).containsExactly("4");
    }

    @Test
    void keysAreCompared() {
        String longKey = "k".repeat(70_000);
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", columns: {number: integer}, csv: {null-words: ["NULL"]}}
                        key: [code, number]
                        attributes: {name: type 2}
                        """)
                .write(
                        "huts-2026-03-01.csv",
                        "code,number,name\n,1,empty\nNULL,1,null\n" + longKey + ",1,long\n" + longKey
                                + "x,1,longer\n A,007,seven\n");
        assertThat(star.loaded("2026-03-01", "dim_hut").counts())
                .as("an empty text is no key")
                .containsEntry("new", 3L)
                .containsEntry("setAside", 2L);
        star.write(
                "huts-2026-03-02.csv",
                "code,number,name\n,1,empty\n" + longKey + ",1,changed\nA,7,seven\n A,7,seven\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                .containsEntry("unchanged", 1L)
                .containsEntry("versioned", 1L)
                .containsEntry("new", 1L);
    }

    /** What a named attribute becomes that one delivery lacks; versions keep what they have also where a late row comes between them. */
    @Test
    void whatBecomesOfANamedAttributeThatIsNotDeliveredIsSaid() {
        String hut = """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date}}
                key: code
                missing: keep
                attributes: {name: type 1, beds: {type: 2, as: integer}, zone: {type: 3, previous: former}, warden: {type: 1, missing: %s}}
                history: {effective: since}
                """;
        String rows =
                "select code, name, beds, zone, former, warden, version from dim_hut where hut_key > 0 order by code, valid_from";
        star.write("dimensions/hut.yaml", hut.formatted("none"));
        star.write(
                "huts-2026-03-01.csv",
                "code,name,beds,zone,warden,since\nA,a,1,n,Mina,2026-03-01\nB,b,2,n,Gian,2026-03-01\nA,a,4,s,Mina,2026-03-10\n");
        star.loaded("2026-03-01", "dim_hut");
        star.write("huts-2026-03-02.csv", "code,name,since\nA,aa,2026-03-05\nB,bb,2026-03-12\nC,c,2026-03-02\n");
        star.loaded("2026-03-02", "dim_hut");
        assertThat(star.rows(rows))
                .containsExactly(
                        "A|a|1|s|n|Mina|1", "A|a|4|s|n|Mina|2", "B|bb|2|n|null|null|1", "C|c|null|null|null|null|1");
        star.write("dimensions/hut.yaml", hut.formatted("stop"));
        star.write("huts-2026-03-03.csv", "code,name,since\nA,aaa,2026-03-11\n");
        assertThat(star.load("2026-03-03").tables().get(0).error().orElseThrow())
                .contains("the column \"warden\" (attribute) is not staged");
    }

    /** A version that a late row makes says of what is not delivered what held then, and not what holds now. */
    @Test
    void aLateVersionKeepsWhatHeldThen() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date}}
                key: code
                attributes: {name: type 2, beds: {type: 2, as: integer, missing: keep}}
                history: {effective: since}
                """)
                .write(
                        "huts-2026-03-01.csv",
                        "code,name,beds,since\nA,a,1,2026-03-01\nA,a,4,2026-03-10\nB,b,2,2026-03-10\n")
                .write(
                        "huts-2026-03-02.csv",
                        "code,name,since\nA,x,2026-03-05\nA,y,2026-03-20\nA,w,2026-02-01\nB,bb,2026-03-05\nC,c,2026-03-01\nC,d,2026-03-02\n");
        star.loaded("2026-03-01", "dim_hut");
        star.loaded("2026-03-02", "dim_hut");
        assertThat(star.rows(
                        "select code, name, beds, valid_from from dim_hut where hut_key > 0 order by code, valid_from"))
                .containsExactly(
                        "A|w|1|2026-02-01",
                        "A|a|1|2026-03-01",
                        "A|x|1|2026-03-05",
                        "A|a|4|2026-03-10",
                        "A|y|4|2026-03-20",
                        "B|bb|2|2026-03-05",
                        "B|b|2|2026-03-10",
                        "C|c|null|2026-03-01",
                        "C|d|null|2026-03-02");
    }

    @Test
    void aColumnThatIsNotDeliveredOneDaySaysNothing() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {beds: integer, phone: varchar, since: date}}
                key: code
                all-others: type 1
                attributes: {beds: type 2}
                history: {effective: since}
                current-view: huts_now
                """)
                .write(
                        "huts-2026-03-01.csv",
                        "code,beds,phone,warden,since\nA,1,11,Mina,2026-03-01\nB,2,22,Gian,2026-03-01\n");
        star.loaded("2026-03-01", "dim_hut");
        List<Column> view = star.warehouse().viewColumns("huts_now");
        star.write(
                "huts-2026-03-02.csv",
                "code,beds,warden,since\nA,7,Mina,2026-03-02\nB,2,Ada,2026-03-02\nC,3,Lu,2026-03-02\n"
                        + "B,9,Ada,2026-03-03\nA,5,Mina,2026-02-01\n");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {beds: integer, since: date}}
                key: code
                all-others: type 1
                attributes: {beds: type 2}
                history: {effective: since}
                current-view: huts_now
                """);
        star.loaded("2026-03-02", "dim_hut");
        assertThat(star.rows(
                        "select code, beds, phone, warden from dim_hut where hut_key > 0 order by code, valid_from"))
                .containsExactly(
                        "A|5|11|Mina", "A|1|11|Mina", "A|7|11|Mina", "B|2|22|Ada", "B|9|22|Ada", "C|3|null|Lu");
        assertThat(star.warehouse().viewColumns("huts_now"))
                .as("the view keeps the column")
                .isEqualTo(view);
    }

    /** Planning must not grow with the square of the columns: with it, this takes many minutes. */
    @Tag("slow")
    @Test
    @Timeout(value = 300, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
    void thousandsOfColumns() {
        int many = TestWarehouses.onServer() ? 900 : 2_000; // a row of a server fits into a page
        String header = IntStream.range(0, many).mapToObj(i -> "c" + i).collect(Collectors.joining(","));
        String numbers = IntStream.range(0, many).mapToObj(String::valueOf).collect(Collectors.joining(","));
        star.write("dimensions/wide.yaml", """
                        dimension: wide
                        from: {files: "wide-{date}.csv"}
                        key: code
                        all-others: type 2
                        """)
                .write("wide-2026-03-01.csv", "code," + header + "\nA," + numbers + "\nB," + numbers + "\n")
                .write("wide-2026-03-02.csv", "code," + header + "\nA," + numbers + "\nB,9" + numbers + "\n");
        assertThat(star.loaded("2026-03-01", "dim_wide").count("new")).isEqualTo(2);
        assertThat(star.loaded("2026-03-02", "dim_wide").counts())
                .containsEntry("versioned", 1L)
                .containsEntry("unchanged", 1L);
        assertThat(star.rows("select code, version, c0, c800 from dim_wide where wide_key > 0 order by 1, 2"))
                .containsExactly("A|1|0|800", "B|1|0|800", "B|2|90|800");
    }

    @Tag("slow")
    @Test
    void fiveHundredAttributes() {
        int many = 500;
        String header = IntStream.range(0, many).mapToObj(i -> "c" + i).collect(Collectors.joining(","));
        String values = IntStream.range(0, many).mapToObj(i -> "v" + i).collect(Collectors.joining(","));
        star.write("dimensions/wide.yaml", """
                        dimension: wide
                        from: {files: "wide-{date}.csv"}
                        key: code
                        attributes: {c7: type 1, c8: type 0, c9: {type: 3, previous: before_c9}}
                        all-others: type 2
                        history: {effective: since}
                        """)
                .write(
                        "wide-2026-03-01.csv",
                        "code,since," + header + "\nA,2026-03-01," + values + "\nB,2026-03-01," + values + "\n");
        assertThat(star.loaded("2026-03-01", "dim_wide").count("new")).isEqualTo(2);
        star.write(
                "wide-2026-03-02.csv",
                "code,since," + header + "\nA,2026-03-02," + values.replace("v499", "") + "\nB,2026-03-02," + values
                        + "\nA,2026-02-01," + values.replace("v250", "x") + "\n");
        assertThat(star.loaded("2026-03-02", "dim_wide").counts())
                .containsEntry("versioned", 2L)
                .containsEntry("unchanged", 1L)
                .containsEntry("late", 1L);
        assertThat(star.rows("select version, c250, c499 from dim_wide where code = 'A' order by 1"))
                .containsExactly("1|x|v499", "2|v250|v499", "3|v250|null");
    }
}
