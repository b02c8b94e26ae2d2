package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The rules one by one, as a reader of docs/rules.md would try them. */
class DimensionLoadTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void dimensionOfAllTypes() {
        star = new TestStar(folder);
        dimension("columns: {since: date, beds: integer}", "history: {effective: since}");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void dimension(String input, String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv", %s}
                key: code
                attributes: {opened: type 0, phone: type 1, category: type 2, beds: type 2}
                %s
                """.formatted(input, more));
    }

    private TableEntry load(String day, String... rows) {
        star.write(day + ".csv", "code,opened,phone,category,beds,since\n" + String.join("\n", rows) + "\n");
        return star.loaded(day, "dim_hut");
    }

    private List<String> versions() {
        return star.rows("select opened, phone, category, beds, valid_from, valid_to, is_current, version from dim_hut"
                + " where hut_key > 0 order by code, valid_from");
    }

    @Test
    void typeZeroStaysTypeOneIsWrittenOnEveryVersionTypeTwoOpensOne() {
        load("2026-03-01", "A,1911,1,B,24,2026-03-01");
        TableEntry entry = load("2026-03-02", "A,1912,2,A,24,2026-03-02");
        assertThat(entry.count("versioned")).isEqualTo(1);
        assertThat(entry.inserted()).isEqualTo(1);
        assertThat(entry.updated()).isEqualTo(1);
        assertThat(versions())
                .containsExactly(
                        "1911|2|B|24|2026-03-01|2026-03-02|false|1", "1911|2|A|24|2026-03-02|9999-12-31|true|2");
        assertThat(load("2026-03-03", "A,1913,3,A,24,2026-03-03").count("overwritten"))
                .isEqualTo(1);
        assertThat(versions())
                .containsExactly(
                        "1911|3|B|24|2026-03-01|2026-03-02|false|1", "1911|3|A|24|2026-03-02|9999-12-31|true|2");
    }

    @Test
    void nullIsAValueLikeEveryOther() {
        load("2026-03-01", "A,,,,,2026-03-01");
        assertThat(load("2026-03-01", "A,,,,,2026-03-01").count("unchanged")).isEqualTo(1);
        load("2026-03-02", "A,1911,,,7,2026-03-02");
        load("2026-03-03", "A,,,,,2026-03-03");
        assertThat(versions())
                .containsExactly(
                        "null|null|null|null|2026-03-01|2026-03-02|false|1",
                        "null|null|null|7|2026-03-02|2026-03-03|false|2",
                        "null|null|null|null|2026-03-03|9999-12-31|true|3");
    }

    @Test
    void anotherStatementOfTheSameMomentCorrectsInPlace() {
        load("2026-03-01", "A,1911,1,B,24,2026-03-01");
        assertThat(load("2026-03-02", "A,1911,1,C,24,2026-03-01").count("corrected"))
                .isEqualTo(1);
        assertThat(versions()).containsExactly("1911|1|C|24|2026-03-01|9999-12-31|true|1");
    }

    @Test
    void aMemberThatChangesAndChangesBackInOneDeliveryHasThreeVersions() {
        TableEntry entry =
                load("2026-03-09", "A,x,1,C,24,2026-03-05", "A,x,2,B,24,2026-03-09", "A,x,0,B,24,2026-03-01");
        assertThat(entry.counts())
                .containsEntry("new", 1L)
                .containsEntry("versioned", 2L)
                .containsEntry("late", 0L);
        assertThat(versions())
                .containsExactly(
                        "x|2|B|24|2026-03-01|2026-03-05|false|1",
                        "x|2|C|24|2026-03-05|2026-03-09|false|2",
                        "x|2|B|24|2026-03-09|9999-12-31|true|3");
    }

    @Test
    void aLateRowIsSplicedAndWhatWasStatedLaterComesBack() {
        load("2026-03-09", "A,x,1,B,24,2026-03-01", "A,x,1,B,24,2026-03-07");
        TableEntry entry = load("2026-03-10", "A,y,9,C,24,2026-03-04");
        assertThat(entry.counts()).containsEntry("versioned", 1L).containsEntry("late", 1L);
        assertThat(versions())
                .containsExactly(
                        "x|1|B|24|2026-03-01|2026-03-04|false|1",
                        "x|1|C|24|2026-03-04|2026-03-07|false|2",
                        "x|1|B|24|2026-03-07|9999-12-31|true|3");
        assertThat(star.rows("select hut_key from dim_hut where hut_key > 0 order by valid_from"))
                .containsExactly("1", "2", "3");
    }

    @Test
    void aLateRowThatSaysWhatTheNextVersionSaysLetsItBeginEarlier() {
        load("2026-03-09", "A,x,1,B,24,2026-03-01", "A,x,1,C,24,2026-03-07");
        assertThat(load("2026-03-10", "A,x,1,C,24,2026-03-04").count("corrected"))
                .isEqualTo(1);
        assertThat(versions())
                .containsExactly("x|1|B|24|2026-03-01|2026-03-04|false|1", "x|1|C|24|2026-03-04|9999-12-31|true|2");
    }

    @Test
    void lateRowsStopTheLoadWhereTheDefinitionSaysSo() {
        dimension("columns: {since: date, beds: integer}", "history: {effective: since, late: stop}");
        load("2026-03-09", "A,x,1,B,24,2026-03-05");
        assertThat(load("2026-03-09", "A,x,1,B,24,2026-03-05").count("unchanged"))
                .isEqualTo(1);
        star.write("2026-03-10.csv", "code,opened,phone,category,beds,since\nA,x,1,C,24,2026-03-01\n");
        assertThat(star.failure("2026-03-10")).contains("1 row came late", "code A", "2026-03-01");
        assertThat(versions()).hasSize(1);
    }

    @Test
    void timestampsOrderStatementsToTheMicrosecond() {
        dimension("columns: {since: timestamp, beds: integer}", "history: {effective: since}");
        load(
                "2026-03-01",
                "A,x,1,B,24,2026-03-01 10:00:00.000001",
                "A,x,1,C,24,2026-03-01 10:00:00.000002",
                "A,x,1,D,24,2026-03-01 09:59:59");
        assertThat(star.rows(
                        "select category, valid_from, valid_to from dim_hut where hut_key > 0 order by valid_from"))
                .containsExactly(
                        "D|2026-03-01 09:59:59.0|2026-03-01 10:00:00.000001",
                        "B|2026-03-01 10:00:00.000001|2026-03-01 10:00:00.000002",
                        "C|2026-03-01 10:00:00.000002|9999-12-31 00:00:00.0");
    }

    @Test
    void aRowWithoutAnEffectiveOrBeyondTheOpenEndIsSetAside() {
        TableEntry entry = load("2026-03-01", "A,x,1,B,24,", "B,x,1,B,24,9999-12-31", "C,x,1,B,24,2026-02-31");
        assertThat(entry.count("setAside")).isEqualTo(3);
        assertThat(star.setAside())
                .extracting(row -> row.substring(0, 16))
                .containsExactly("bad value|since|", "bad value|since|", "bad value|since|");
    }

    @Test
    void loadingTwiceOnOneDayNeverEndsAVersionBeforeItBegins() {
        dimension("columns: {beds: integer}", "");
        load("2026-03-01", "A,x,1,B,24,");
        assertThat(load("2026-03-01", "A,x,1,C,24,").count("corrected")).isEqualTo(1);
        assertThat(load("2026-03-02", "A,x,1,D,24,").count("versioned")).isEqualTo(1);
        assertThat(versions())
                .containsExactly("x|1|C|24|2026-03-01|2026-03-02|false|1", "x|1|D|24|2026-03-02|9999-12-31|true|2");
    }

    @Test
    void aNewAttributeBecomesANewColumnAndADroppedOneStays() {
        load("2026-03-01", "A,1911,1,B,24,2026-03-01");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv", columns: {since: date}}
                key: code
                attributes: {phone: type 1, category: type 2, label: {type: 1, as: varchar(5), take: "code || '/' || category"}}
                history: {effective: since}
                """);
        assertThat(load("2026-03-02", "A,1911,1,B,24,2026-03-01").count("overwritten"))
                .isEqualTo(1);
        assertThat(star.rows("select label, opened from dim_hut where hut_key > 0"))
                .containsExactly("A/B|1911");
    }

    @Test
    void refusesAChangeOfTypeThatCouldLoseDataAndShowsItsSql() {
        load("2026-03-01", "A,1911,1,B,24,2026-03-01");
        dimension("columns: {since: date, beds: integer, category: integer}", "history: {effective: since}");
        star.write("2026-03-02.csv", "code,opened,phone,category,beds,since\nA,1911,1,7,24,2026-03-02\n");
        assertThat(star.failure("2026-03-02"))
                .contains("category of dim_hut is varchar", "wants integer", "\"dim_hut\" alter column \"category\"");
    }

    @Test
    void reservedMembersAreThereAndNeverMatched() {
        load("2026-03-01", "Unknown,1911,1,B,24,2026-03-01");
        assertThat(star.rows("select hut_key, code, category, beds, is_current, row_origin from dim_hut order by 1"))
                .containsExactly(
                        "-2|null|Not applicable|null|true|reserved",
                        "-1|null|Unknown|null|true|reserved",
                        "1|Unknown|B|24|true|source");
    }

    @Test
    void theCalendarKnowsItsDays() {
        star.write("dimensions/hut.yaml", """
                dimension: day
                kind: calendar
                days: 2026-02-27..2027-07-04
                fiscal-year-starts: 7
                """);
        assertThat(star.loaded("2026-03-01", "dim_day").count("new")).isEqualTo(493);
        assertThat(star.rows(
                        "select day_key, year, half, quarter, month, month_name, month_short, iso_year, iso_week, week_label"
                                + " from dim_day where day_key in (20260302, 20260401, 20261228, 20270101) order by 1"))
                .containsExactly(
                        "20260302|2026|1|1|3|March|Mar|2026|10|2 – 8 Mar 2026",
                        "20260401|2026|1|2|4|April|Apr|2026|14|30 Mar – 5 Apr 2026",
                        "20261228|2026|2|4|12|December|Dec|2026|53|28 Dec 2026 – 3 Jan 2027",
                        "20270101|2027|1|1|1|January|Jan|2026|53|28 Dec 2026 – 3 Jan 2027");
        assertThat(star.rows("select day_key, day_of_month, day_of_year, day_of_week, day_name, day_short, is_weekend,"
                        + " fiscal_year, fiscal_quarter, fiscal_period from dim_day"
                        + " where day_key in (20260228, 20260630, 20260701, 20270101) order by 1"))
                .containsExactly(
                        "20260228|28|59|6|Saturday|Sat|true|2026|3|8",
                        "20260630|30|181|2|Tuesday|Tue|false|2026|4|12",
                        "20260701|1|182|3|Wednesday|Wed|false|2027|1|1",
                        "20270101|1|1|5|Friday|Fri|false|2027|3|7");
        assertThat(star.rows(
                        "select month_first_day, month_last_day, quarter_first_day, quarter_last_day, year_first_day,"
                                + " year_last_day from dim_day where day_key = 20260515"))
                .containsExactly("2026-05-01|2026-05-31|2026-04-01|2026-06-30|2026-01-01|2026-12-31");
        assertThat(star.loaded("2026-03-01", "dim_day").count("unchanged")).isEqualTo(493);
    }

    @Test
    void theCalendarSpeaksTheProjectsLanguage() {
        star.write("dimensions/hut.yaml", """
                dimension: day
                kind: calendar
                days: 2026-03-02..2026-03-02
                language: de
                """);
        star.loaded("2026-03-01", "dim_day");
        assertThat(star.rows("select month_name, day_name, day_short from dim_day where day_key > 0"))
                .containsExactly("März|Montag|Mo");
    }

    /** What holds from the moment of the latest statement corrects it, and is not late. */
    @Test
    void aStatementOfTheSameMomentIsNotLate() {
        dimension("columns: {since: date, beds: integer}", "history: {effective: since, late: stop}");
        load("2026-03-09", "A,x,1,B,24,2026-03-05");
        assertThat(load("2026-03-10", "A,x,1,C,24,2026-03-05", "A,x,1,D,24,2026-03-06")
                        .counts())
                .containsEntry("corrected", 1L)
                .containsEntry("versioned", 1L)
                .containsEntry("late", 0L);
        assertThat(star.rows("select category, valid_from from dim_hut where hut_key > 0 order by valid_from"))
                .containsExactly("C|2026-03-05", "D|2026-03-06");
    }
}
