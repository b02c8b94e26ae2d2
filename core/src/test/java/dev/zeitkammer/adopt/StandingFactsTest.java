package dev.zeitkammer.adopt;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Facts that others left at another version than the one valid at their date stay there, until something comes that concerns it. */
class StandingFactsTest {

    @TempDir
    Path folder;

    private TestStar star;

    /** Two stays in 2021, version 1, and two in 2025, version 2; of each, one points at the other version. */
    @BeforeEach
    void standing() {
        star = new TestStar(folder);
        for (String statement : List.of(
                "create table dim_hut (hut_sk integer, code varchar(10), beds integer, valid_from date, valid_to date)",
                "insert into dim_hut values (1, 'ADL', 30, date '2020-01-01', date '2024-01-01'), (2, 'ADL', 34, date '2024-01-01', null)",
                "create table fact_stay (no integer, night date, hut_sk integer, guests integer)",
                "insert into fact_stay values (1, date '2021-07-01', 1, 2), (2, date '2021-07-02', 2, 2),"
                        + " (3, date '2025-07-01', 2, 2), (4, date '2025-07-02', 1, 2)")) {
            star.warehouse().execute(statement);
        }
        star.write("dimensions/hut.yaml", """
                dimension: hut
                standing: true
                from: {files: "huts-{date}.csv", columns: {since: date}}
                key: code
                attributes: {beds: {type: 2, as: integer}}
                surrogate: {column: hut_sk}
                history: {effective: since, open-end: none}
                """);
        star.write("facts/stay.yaml", """
                fact: stay
                standing: true
                from: {files: "stays-{date}.csv", columns: {night: date}}
                grain: {no: no}
                lookups: {hut: {column: hut_sk, match: code, as-of: night}}
                degenerate: night
                measures: {guests: integer}
                """);
    }

    private void deliver(String day, String huts, String stays) {
        star.write("huts-" + day + ".csv", "code,beds,since\n" + huts);
        star.write("stays-" + day + ".csv", "no,night,code,guests\n" + stays);
        assertThat(star.load(day).tables()).allMatch(table -> table.status() == LoadStatus.DONE);
    }

    private List<String> stays() {
        return star.rows(
                "select s.no, h.beds from fact_stay as s join dim_hut as h on h.hut_sk = s.hut_sk where s.no < 10 order by s.no");
    }

    private List<String> failing() {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(Verdict::claim)
                        .toList();
    }

    @Test
    void theyStayWhereAnOrdinaryChangeComes() {
        deliver("2026-03-01", "ADL,40,2026-03-01\n", "11,2026-03-01,ADL,1\n");
        assertThat(stays()).containsExactly("1|30", "2|34", "3|34", "4|30");
        deliver("2026-03-02", "ADL,41,2026-03-02\n", "12,2026-03-02,ADL,1\n");
        assertThat(stays()).containsExactly("1|30", "2|34", "3|34", "4|30");
        assertThat(failing()).as("they are noted").isEmpty();
    }

    @Test
    void aLateRowMovesThoseOfItsStretch() {
        deliver("2026-03-01", "ADL,40,2026-03-01\n", "11,2026-03-01,ADL,1\n");
        deliver("2026-03-02", "ADL,31,2021-06-01\n", "12,2026-03-02,ADL,1\n");
        assertThat(stays()).containsExactly("1|31", "2|31", "3|34", "4|30");
        assertThat(failing()).isEmpty();
    }

    @Test
    void aLateRowOfTheFirstLoadDoesToo() {
        deliver("2026-03-01", "ADL,31,2021-06-01\n", "11,2026-03-01,ADL,1\n");
        assertThat(stays()).containsExactly("1|31", "2|31", "3|34", "4|30");
        assertThat(failing()).isEmpty();
    }

    @Test
    void whatIsDeliveredAgainGetsTheVersionOfItsDate() {
        deliver("2026-03-01", "ADL,40,2026-03-01\n", "2,2021-07-02,ADL,3\n");
        assertThat(stays()).containsExactly("1|30", "2|30", "3|34", "4|30");
        assertThat(failing()).isEmpty();
    }
}
