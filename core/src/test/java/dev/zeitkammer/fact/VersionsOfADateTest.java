package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.util.List;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The version that a fact finds by its date, and facts that follow versions that come late. */
@Tag("slow")
class VersionsOfADateTest extends StayStar {

    private static final String STAYS = "select no, hut_key, guest_key from fact_stay order by no";

    /** Huts with versions of their beds, by days or by moments. */
    private void versionsBy(String moments, String history, String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: %s, beds: integer}}
                key: code
                attributes: {beds: type 2}
                history: {effective: since%s}
                %s
                """.formatted(moments, history, more));
    }

    @Test
    void factsFollowAVersionThatCameLate() {
        fact("hut: {as-of: night_on}, night: {dimension: calendar, match: night_on}, guest: ", "");
        stays("2026-03-01", "1,HA,1,,2026-03-05,1,A\n2,HA,1,,2026-03-20,1,A\n3,HA,1,,2026-02-01,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HA,2026-03-01,10\nHA,2026-03-10,12\n");
        assertThat(loaded("2026-03-02").count("followed")).isEqualTo(1);
        assertThat(star.rows(STAYS)).containsExactly("1|1|1", "2|2|1", "3|1|1");
        huts("2026-03-03", "HA,2026-03-04,11\nHA,2026-01-01,9\n");
        TableEntry moved = loaded("2026-03-03");
        assertThat(moved.count("followed")).isEqualTo(2);
        assertThat(moved.updated()).isEqualTo(2);
        assertThat(star.rows("select no, beds from fact_stay join dim_hut using (hut_key) order by no"))
                .containsExactly("1|11", "2|12", "3|9");
        assertThat(star.load("2026-03-04").tables().get(3).status()).isEqualTo(LoadStatus.SKIPPED);
    }

    @Test
    void factsStayWhereTheHistorySaysSo() {
        versionsBy("date", ", facts: stay", "");
        fact("hut: {as-of: night_on}, night: {dimension: calendar, match: night_on}, guest: ", "");
        stays("2026-03-01", "1,HA,1,,2026-03-05,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HA,2026-03-04,11\n");
        star.load("2026-03-02");
        assertThat(star.rows(STAYS)).containsExactly("1|1|1");
    }

    @Test
    void followingNeedsTheDateInTheFact() {
        versionsBy("date", ", facts: follow", "");
        fact("hut: {as-of: night_on}", "");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("\"night_on\" is not stored in \"stay\"");
        fact("hut: {as-of: night_on}", "degenerate: night_on\n");
        stays("2026-03-01", "1,HA,1,,2026-03-05,1,A\n");
        loaded("2026-03-01");
    }

    @Test
    void factsFollowWhatChangedBeforeALoadThatFailed() {
        fact("hut: {as-of: night_on}", "degenerate: night_on");
        stays("2026-03-01", "1,HA,1,1,2026-03-20,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HA,2026-03-10,20\n");
        star.write("stays-2026-03-02.csv", "no,code\n1,HA\n");
        assertThat(star.failure("2026-03-02")).contains("stays-2026-03-02.csv");
        stays("2026-03-03", "2,HA,1,1,2026-03-01,1,A\n");
        assertThat(loaded("2026-03-03").count("followed")).isEqualTo(1);
        assertThat(
                        star.rows(
                                "select s.no, h.beds from fact_stay as s join dim_hut as h on h.hut_key = s.hut_key order by 1"))
                .containsExactly("1|20", "2|10");
    }

    @Test
    void aDayFindsTheVersionOfItsEndWhereVersionsHaveTimes() {
        versionsBy("timestamp", "", "");
        huts("2026-03-01", "HA,2026-03-01T00:00:00,1\nHA,2026-03-02T00:00:00,2\nHA,2026-03-02T23:59:59.999999,3\n");
        fact("hut: {as-of: night_on}", "");
        stays("2026-03-01", "1,HA,1,1,2026-03-01,1,A\n2,HA,1,1,2026-03-02,1,A\n3,HA,1,1,2026-02-28,1,A\n");
        assertThat(loaded("2026-03-01").lookups().get("hut"))
                .as("a day ends before the midnight at which the next one begins")
                .containsEntry("early", 1L)
                .containsEntry("matched", 2L);
        assertThat(
                        star.rows(
                                "select s.no, h.beds from fact_stay as s join dim_hut as h on h.hut_key = s.hut_key order by 1"))
                .containsExactly("1|1", "2|3", "3|1");
    }

    @Test
    void aFactWhoseDayAloneIsStoredDoesNotFollowVersionsWithTimes() {
        versionsBy("timestamp", "", "");
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {night_on: timestamp, paid: integer}}
                grain: no
                lookups: {hut: {match: code, as-of: night_on}, night: {dimension: calendar, match: night_on}}
                measures: {paid: integer}
                """);
        huts("2026-03-01", "HA,2026-03-01T08:00:00,1\n");
        stays("2026-03-01", "1,HA,1,1,2026-03-01T10:00:00,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HA,2026-03-01T12:00:00,2\n");
        star.load("2026-03-02");
        assertThat(star.rows("select h.beds from fact_stay as s join dim_hut as h on h.hut_key = s.hut_key"))
                .as("at ten there was one bed, whatever came at noon")
                .containsExactly("1");
    }

    @Test
    void aDateInTheGapOfAMemberThatCameBackFindsTheDeletedVersionWheneverItIsAsked() {
        versionsBy("date", "", "deletions: {when: beds = -1}");
        fact("hut: {as-of: night_on}", "");
        huts("2026-03-01", "HA,2026-03-01,10\nHA,2026-03-05,-1\n");
        stays("2026-03-01", "1,HA,1,1,2026-03-07,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HA,2026-03-10,12\n");
        stays("2026-03-02", "2,HA,1,1,2026-03-07,1,A\n3,HA,1,1,2026-03-10,1,A\n");
        assertThat(loaded("2026-03-02").lookups().get("hut"))
                .containsEntry("ended", 1L)
                .containsEntry("matched", 1L);
        assertThat(
                        star.rows(
                                "select s.no, h.beds from fact_stay as s join dim_hut as h on h.hut_key = s.hut_key order by 1"))
                .containsExactly("1|10", "2|10", "3|12");
    }

    @Test
    void inclusiveEndsAndOpenOnesThatAreNullAreReadAsTheyAreMeant() {
        star.write("zeitkammer.yaml", """
                project: test
                warehouses: {memory: {url: "jdbc:duckdb:"}}
                conventions: {valid-to: inclusive, open-end: none}
                """);
        fact("hut: {as-of: night_on}", "");
        huts("2026-03-01", "HA,2026-03-01,10\nHA,2026-03-05,12\n");
        stays("2026-03-01", "1,HA,1,1,2026-03-04,1,A\n2,HA,1,1,2026-03-05,1,A\n3,HA,1,1,2027-01-01,1,A\n");
        loaded("2026-03-01");
        assertThat(star.rows("select s.no, h.beds, h.valid_to from fact_stay as s join dim_hut as h"
                        + " on h.hut_key = s.hut_key order by 1"))
                .containsExactly("1|10|2026-03-04", "2|12|null", "3|12|null");
        star.warehouse().execute("update dim_hut set valid_to = date '2026-03-05' where beds = 10");
        List<String> failing = new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(Verdict::claim)
                        .toList();
        star.warehouse().execute("update dim_hut set valid_to = date '2026-03-04' where beds = 10");
        assertThat(failing).as("both versions would hold on the fifth").contains("versions do not overlap");
    }

    /** A late row that says what the next version says opens none; it only lets that one begin earlier. */
    @Test
    void factsFollowAVersionThatOnlyBeginsEarlier() {
        huts("2026-03-01", "HA,2026-01-01,9\nHA,2026-03-10,10\n");
        fact("hut: {as-of: night_on}, night: {dimension: calendar, match: night_on}, guest: ", "");
        stays("2026-03-01", "1,HA,1,,2026-03-05,1,A\n2,HA,1,,2026-02-05,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HA,2026-03-04,10\n");
        assertThat(loaded("2026-03-02").count("followed")).isEqualTo(1);
        assertThat(star.rows("select no, beds from fact_stay join dim_hut using (hut_key) order by no"))
                .containsExactly("1|10", "2|9");
    }
}
