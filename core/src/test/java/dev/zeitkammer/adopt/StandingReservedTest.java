package dev.zeitkammer.adopt;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.Undo;
import dev.zeitkammer.profile.Drafting.Kind;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Optional;
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

    /** Counted keys begin at 1, and 0 stands for nobody: it has no versions, is found by nothing, and facts that point at it wait. */
    @Test
    void theUnknownMemberHasTheKeyZero() {
        try (TestStar star = star(
                "create table dim_hut (hut_key integer not null, code varchar(10), name varchar(40), valid_from date, valid_to date)",
                "insert into dim_hut values (0, '?', 'no hut', date '1900-01-01', null),"
                        + " (1, 'ADL', 'Adlerhorst', date '2026-01-01', null)")) {
            new Adopting(star.project(), star.warehouse()).adopt(Kind.DIMENSION, "hut", "dim_hut", Optional.empty());
            assertThat(star.read("dimensions/hut.yaml")).contains("reserved: {unknown: {key: 0}}");
            star.write("deliveries/2026-03-01/hut.csv", "code,name\nADL,Adlerhorst\nBER,Bergli\n?,nothing\n");
            star.write("facts/stay.yaml", """
                    fact: stay
                    from: {files: "deliveries/{date}/stays.csv"}
                    grain: [id]
                    lookups: {hut: {match: code, as-of: day}}
                    measures: {nights: integer}
                    """);
            star.write(
                    "deliveries/2026-03-01/stays.csv",
                    "id,code,day,nights\n1,ADL,2026-02-01,1\n2,BER,2026-02-01,2\n3,TSC,2026-02-01,3\n");
            star.loaded("2026-03-01", "fact_stay");
            assertThat(star.setAside()).containsExactly("reserved member|code|?|4|?,nothing");
            assertThat(star.rows("select id, hut_key from fact_stay order by id"))
                    .containsExactly("1|1", "2|2", "3|0");
            star.write("deliveries/2026-03-02/hut.csv", "code,name\nADL,Adlerhorst 2\nTSC,Tschuggen\n");
            star.loaded("2026-03-02", "dim_hut");
            assertThat(
                            star.rows(
                                    "select hut_key, code, name, version, row_origin from dim_hut where hut_key <> -2 order by 1"))
                    .containsExactly(
                            "0|?|no hut|1|reserved",
                            "1|ADL|Adlerhorst|1|source",
                            "2|BER|Bergli|1|source",
                            "3|ADL|Adlerhorst 2|2|source",
                            "4|TSC|Tschuggen|1|source");
            assertThat(star.rows("select hut_key from fact_stay where id = 3")).containsExactly("4");
            holds(star);
            new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.of(1L));
            holds(star);
        }
    }
}
