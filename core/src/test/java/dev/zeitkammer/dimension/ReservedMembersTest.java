package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What reserved members hold: keys of others, texts that fit, values of the definition's own. */
class ReservedMembersTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder)
                .write("dimensions/warden.yaml", """
                        dimension: warden
                        from: {files: "wardens.csv"}
                        key: warden_no
                        attributes: {name: type 1}
                        reserved: {nobody: {key: -7}}
                        """)
                .write("wardens.csv", "warden_no,name\n1,Resi\n");
        huts("label: type 1", "late: {key: -3}, nobody: {key: -5}");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void huts(String attributes, String reserved) {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts.csv"}
                        key: code
                        attributes: {%s}
                        lookups:
                          warden: {match: warden_no, type: 2}
                          parent: {dimension: hut, match: above, type: 1, hierarchy: true}
                        reserved: {%s}
                        """.formatted(attributes, reserved));
        star.write("huts.csv", "code,warden_no,above,label,beds\nHA,1,,old,3\n");
    }

    @Test
    void theyPointAtReservedMembersOfOthers() {
        star.load("2026-03-01");
        assertThat(star.rows("select hut_key, warden_key, parent_key from dim_hut where hut_key < 0 order by 1"))
                .as("nobody is nobody there too; who is not known there is unknown")
                .containsExactly("-5|-7|-5", "-3|-1|-3", "-2|-2|-2", "-1|-1|-1");
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .allMatch(Verdict::holds);
    }

    @Test
    void whatIsGivenFitsTheColumn() {
        huts("beds: {type: 1, as: integer}", "unknown: {beds: none}, late: {key: -3, beds: 0}");
        String wrong = "\"none\" is given for beds of the reserved member \"unknown\", and beds is integer";
        star.loaded("2026-03-01", "dim_warden");
        assertThat(new Checker(star.project(), star.warehouse(), Clock.systemUTC())
                        .check()
                        .problems())
                .extracting(Problem::toString)
                .anyMatch(problem -> problem.contains("hut.yaml:8:") && problem.contains(wrong));
        assertThat(star.load("2026-03-01").tables())
                .filteredOn(entry -> entry.table().equals("dim_hut"))
                .allMatch(entry -> entry.error().orElseThrow().contains(wrong));
    }

    @Test
    void textsThatWereCutAreCompletedOnceTheColumnIsLonger() {
        huts("label: {type: 1, as: varchar(4)}", "unknown: {label: No hut we know}");
        star.loaded("2026-03-01", "dim_hut");
        String labels = "select hut_key, label from dim_hut where hut_key < 0 order by 1";
        assertThat(star.rows(labels))
                .as("only a server keeps lengths")
                .isEqualTo(
                        TestWarehouses.onServer()
                                ? List.of("-2|Not ", "-1|No h")
                                : List.of("-2|Not applicable", "-1|No hut we know"));
        huts("label: {type: 1, as: varchar(10)}", "unknown: {label: No hut we know}");
        star.loaded("2026-03-02", "dim_hut");
        if (TestWarehouses.onServer()) {
            assertThat(star.rows(labels)).containsExactly("-2|Not applic", "-1|No hut we ");
        }
        huts("label: {type: 1, as: varchar}", "unknown: {label: No hut we know}");
        star.loaded("2026-03-03", "dim_hut");
        assertThat(star.rows(labels)).containsExactly("-2|Not applicable", "-1|No hut we know");
    }
}
