package dev.zeitkammer.adopt;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Reserved members as others keep them: with business keys, in columns that are never null. */
class StandingReservedTest {

    @TempDir
    Path folder;

    private TestStar star(String... statements) {
        TestStar star = new TestStar(folder);
        for (String statement : statements) {
            star.warehouse().execute(statement);
        }
        return star;
    }

    private static void hut(TestStar star, String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                standing: true
                from: {files: "huts.csv"}
                key: code
                attributes: {name: type 1}
                surrogate: {column: hut_sk}
                %s
                """.formatted(more));
    }

    private static void holds(TestStar star) {
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .filteredOn(verdict -> !verdict.holds())
                .extracting(Verdict::claim)
                .isEmpty();
    }

    @Test
    void aReservedMemberWithABusinessKeyIsDelivered() {
        try (TestStar star = star(
                "create table dim_hut (hut_sk integer, code varchar(10), name varchar(40))",
                "insert into dim_hut values (-1, 'N/A', 'no hut'), (1, 'ADL', 'Adlerhorst')")) {
            hut(star, "");
            star.write("huts.csv", "code,name\nN/A,nothing\nBER,Bergli\n");
            assertThat(star.loaded("2026-03-01", "dim_hut").counts())
                    .containsEntry("new", 1L)
                    .containsEntry("setAside", 1L);
            assertThat(star.setAside()).containsExactly("reserved member|code|N/A|2|N/A,nothing");
            assertThat(star.rows("select hut_sk, code, name from dim_hut where hut_sk <> -2 order by 1"))
                    .containsExactly("-1|N/A|no hut", "1|ADL|Adlerhorst", "2|BER|Bergli");
            holds(star);
        }
    }

    @Test
    void aBusinessKeyThatIsNeverNull() {
        try (TestStar star = star(
                "create table dim_hut (hut_sk integer not null, code varchar(10) not null, name varchar(40))",
                "insert into dim_hut values (1, 'ADL', 'Adlerhorst')")) {
            hut(star, "");
            star.write("huts.csv", "code,name\nBER,Bergli\n");
            String gap =
                    "code of dim_hut is never null, and the reserved members that are put in have nothing for it; give"
                            + " them values that no member has: reserved: {unknown: {code: …}, not-applicable: {code: …}}";
            assertThat(star.failure("2026-03-01")).contains(gap);
            assertThat(new Checker(star.project(), star.warehouse(), Clock.systemUTC())
                            .check()
                            .problems())
                    .extracting(Problem::message)
                    .anyMatch(problem -> problem.contains(gap));
            hut(star, "reserved: {unknown: {code: '?'}, not-applicable: {code: '-'}}");
            star.loaded("2026-03-01", "dim_hut");
            assertThat(star.rows("select hut_sk, code, name from dim_hut order by 1"))
                    .containsExactly("-2|-|Not applicable", "-1|?|Unknown", "1|ADL|Adlerhorst", "2|BER|Bergli");
            holds(star);
        }
    }
}
