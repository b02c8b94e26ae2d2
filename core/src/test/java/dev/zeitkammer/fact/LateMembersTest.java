package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.definition.DefinitionException;
import org.junit.jupiter.api.Test;

/** Facts that come before their members: placeholders, healing, and versions that come late. */
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
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date, beds: integer}}
                key: code
                attributes: {beds: type 2}
                history: {effective: since, facts: stay}
                """);
        fact("hut: {as-of: night_on}, night: {dimension: calendar, match: night_on}, guest: ", "");
        stays("2026-03-01", "1,HA,1,,2026-03-05,1,A\n");
        loaded("2026-03-01");
        huts("2026-03-02", "HA,2026-03-04,11\n");
        star.load("2026-03-02");
        assertThat(star.rows(STAYS)).containsExactly("1|1|1");
    }

    @Test
    void followingNeedsTheDateInTheFact() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date, beds: integer}}
                key: code
                attributes: {beds: type 2}
                history: {effective: since, facts: follow}
                """);
        fact("hut: {as-of: night_on}", "");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("\"night_on\" is not stored in \"stay\"");
        fact("hut: {as-of: night_on}", "degenerate: night_on\n");
        stays("2026-03-01", "1,HA,1,,2026-03-05,1,A\n");
        loaded("2026-03-01");
    }
}
