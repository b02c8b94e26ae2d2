package dev.zeitkammer.fact;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Facts that store the key which all versions of a member share. */
class MemberKeysTest {

    private static final String STAYS =
            "select s.no, s.hut_key, s.hut_member_key, h.beds from fact_stay as s left join dim_hut as h"
                    + " on h.hut_member_key = s.hut_member_key and h.is_current order by s.no";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder);
        hut("member-key: true\n");
        fact(", member-key: true");
        star.write("huts-2026-03-01.csv", "code,since,beds\nA,2026-01-01,10\nA,2026-02-01,12\nB,2026-01-01,7\n");
        star.write(
                "stays-2026-03-01.csv",
                "no,code,night\n1,A,2026-01-05\n2,A,2026-02-05\n3,C,2026-02-05\n4,,2026-02-05\n5,B,2025-01-01\n");
    }

    private void hut(String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {code: varchar, since: date}}
                key: code
                attributes: {beds: {type: 2, as: integer}}
                history: {effective: since}
                """ + more);
    }

    private void fact(String more) {
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {no: integer, night: date, code: varchar}}
                grain: no
                lookups: {hut: {as-of: night%s}}
                degenerate: night
                """.formatted(more));
    }

    private List<String> broken() {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(Verdict::claim)
                        .toList();
    }

    @Test
    void theCurrentValuesBehindEveryFactAreOneJoinAway() {
        star.load("2026-03-01");
        assertThat(star.rows(STAYS)).containsExactly("1|2|2|12", "2|3|2|12", "3|-1|-1|null", "4|-2|-2|null", "5|1|1|7");
        star.write("huts-2026-03-02.csv", "code,since,beds\nA,2026-01-03,11\nA,2026-03-01,14\nC,2026-01-01,5\n");
        star.load("2026-03-02");
        assertThat(star.rows(STAYS))
                .as("the fact of A follows to the version that came late, that of C is healed")
                .containsExactly("1|5|2|14", "2|3|2|14", "3|4|4|5", "4|-2|-2|null", "5|1|1|7");
        assertThat(broken()).isEmpty();
        star.warehouse()
                .execute("update " + star.warehouse().table("fact_stay") + " set hut_member_key = 1 where no = 1");
        assertThat(broken())
                .containsExactly("hut_member_key is of the member of hut_key", "nobody but loads has changed it");
    }

    @Test
    void factsThatStandGetThem() {
        hut("");
        fact("");
        star.load("2026-03-01");
        hut("member-key: true\n");
        fact(", member-key: true");
        star.write("stays-2026-03-02.csv", "no,code,night\n6,B,2026-02-05\n");
        assertThat(star.load("2026-03-02", "stay").tables().get(0).error())
                .hasValueSatisfying(error -> assertThat(error)
                        .contains("Cannot look up dim_hut: its member keys are not there yet; load it first"));
        star.write("huts-2026-03-02.csv", "code,since,beds\nB,2026-01-01,7\n");
        star.load("2026-03-02");
        assertThat(star.rows(STAYS))
                .containsExactly("1|2|2|12", "2|3|2|12", "3|-1|-1|null", "4|-2|-2|null", "5|1|1|7", "6|1|1|7");
        assertThat(broken()).isEmpty();
    }

    @Test
    void theDimensionMustHaveThem() {
        hut("");
        assertThatThrownBy(star::project).hasMessageContaining("the dimension \"hut\" has no member keys");
    }
}
