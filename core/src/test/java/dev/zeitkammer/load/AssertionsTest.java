package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.JudgedAssertion;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is expected of deliveries and tables, with each consequence. */
class AssertionsTest {

    private static final String HUTS = """
            dimension: hut
            from:
              files: "huts-{date}.csv"
              columns: {beds: integer, paid: "decimal(10,2)"}
              assert: [%s]
            key: code
            attributes: {beds: type 1, category: type 1}
            """;

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void emptyStar() {
        star = new TestStar(folder);
    }

    private void asserting(String assertions) {
        star.write("dimensions/hut.yaml", HUTS.formatted(assertions));
    }

    private void deliver(String day, String... rows) {
        star.write("huts-" + day + ".csv", "code,beds,category,paid\n" + String.join("\n", rows) + "\n");
    }

    private static List<String> broken(TableEntry entry) {
        return entry.assertions().stream()
                .filter(judged -> !judged.holds())
                .map(judged -> judged.name() + ": " + judged.found() + ", " + judged.otherwise())
                .toList();
    }

    @Test
    void theFormerWordIsToldTheNewOne() {
        star.write("dimensions/hut.yaml", HUTS.replace("assert:", "expect:").formatted("{rows: beds > 0}"));
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("\"expect\" is \"assert\" now; what is below it stays as it is");
    }

    @Test
    void theBookOfTheFormerWordIsTakenOver() {
        asserting("{name: beds, rows: beds > 0, otherwise: note}");
        deliver("2026-03-01", "ADL,0,A,1");
        star.loaded("2026-03-01", "dim_hut");
        Warehouse warehouse = star.warehouse();
        String before = warehouse.book("expectations");
        warehouse.execute("create table " + before
                + " as select load, table_name, name, asserted as expected, found, broken, otherwise, holds from "
                + warehouse.book("assertions"));
        warehouse.execute("drop table " + warehouse.book("assertions"));
        deliver("2026-03-02", "BER,1,A,1");
        star.loaded("2026-03-02", "dim_hut");
        assertThat(new Journal(warehouse).load(1).tables().get(0).assertions())
                .extracting(JudgedAssertion::asserted, JudgedAssertion::found)
                .containsExactly(tuple("beds > 0", "1 row otherwise"));
        assertThat(warehouse.books()).contains("assertions").doesNotContain("expectations");
    }

    @Test
    void rowsThatFailAreSetAsideStopOrAreNoted() {
        asserting(
                "{name: beds, rows: beds between 1 and 500}, {name: category, values: [A, B], of: category, otherwise: set-aside}");
        deliver("2026-03-01", "ADL,30,A,1", "BER,0,A,1", "CAN,12,X,1", "DOR,,,1");
        TableEntry entry = star.loaded("2026-03-01", "dim_hut");
        assertThat(entry.counts()).containsEntry("new", 2L).containsEntry("setAside", 2L);
        assertThat(broken(entry))
                .containsExactly("beds: 1 row otherwise, set-aside", "category: 1 row otherwise, set-aside");
        assertThat(star.setAside())
                .containsExactly(
                        "fails an assertion|beds|asserted: beds between 1 and 500|3|BER,0,A,1",
                        "fails an assertion|category|asserted: category in A, B|4|CAN,12,X,1");
        assertThat(new Journal(star.warehouse()).load(1).tables().get(0).assertions())
                .extracting(JudgedAssertion::name, JudgedAssertion::broken, JudgedAssertion::holds)
                .containsExactly(tuple("beds", 1L, false), tuple("category", 1L, false));
        asserting(
                "{name: beds, rows: beds between 1 and 500, otherwise: note}, {name: category, values: [A, B], of: category, otherwise: stop}");
        deliver("2026-03-02", "EIG,0,B,1", "FIR,1,C,1");
        assertThat(star.failure("2026-03-02"))
                .contains(
                        "What is expected of dim_hut is not so: \"category\" (category in A, B): 1 row otherwise, such as category C.")
                .doesNotContain("\"beds\"");
        assertThat(star.rows("select count(*) from dim_hut where hut_key > 0")).containsExactly("2");
        deliver("2026-03-03", "EIG,0,B,1");
        assertThat(broken(star.loaded("2026-03-03", "dim_hut"))).containsExactly("beds: 1 row otherwise, note");
        assertThat(star.rows("select beds from dim_hut where code = 'EIG'")).containsExactly("0");
    }

    @Test
    void numbersOfRowsAreHeldAgainstBoundsAndTheLastLoad() {
        asserting("{name: some, staged: 2..4}, {name: like last time, against-last: 50%..150%, otherwise: note}");
        deliver("2026-03-01", "ADL,1,A,1", "BER,1,A,1", "CAN,1,A,1", "DOR,1,A,1");
        assertThat(broken(star.loaded("2026-03-01", "dim_hut"))).isEmpty();
        deliver("2026-03-02", "ADL,1,A,1");
        assertThat(star.failure("2026-03-02")).contains("\"some\" (staged rows 2..4): 1 row");
        asserting("{name: some, staged: 1..}, {name: like last time, against-last: 50%..150%, otherwise: note}");
        assertThat(broken(star.loaded("2026-03-02", "dim_hut")))
                .as("a load that stopped is no last load")
                .containsExactly("like last time: 1 rows, 4 in the last load, note");
        deliver("2026-03-03", "ADL,1,A,1", "BER,1,A,1");
        assertThat(broken(star.loaded("2026-03-03", "dim_hut")))
                .containsExactly("like last time: 2 rows, 1 in the last load, note");
        deliver("2026-03-04", "ADL,1,A,1", "BER,1,A,1", "CAN,1,A,1");
        assertThat(broken(star.loaded("2026-03-04", "dim_hut"))).isEmpty();
    }

    @Test
    void totalsEqualWhatAnotherInputSays() {
        star.write(
                "inputs/control.yaml",
                "input: control\nfiles: \"control-{date}.csv\"\ncolumns: {total: \"decimal(10,2)\"}\n");
        asserting("{name: paid, total: sum(paid), equals: {input: control, take: total}, within: 0.01}");
        deliver("2026-03-01", "ADL,1,A,10.50", "BER,1,A,4.50");
        star.write("control-2026-03-01.csv", "total\n15.01\n");
        assertThat(star.loaded("2026-03-01", "dim_hut").assertions())
                .extracting(JudgedAssertion::found)
                .containsExactly("15.00 and 15.01");
        deliver("2026-03-02", "CAN,1,A,10.50");
        star.write("control-2026-03-02.csv", "total\n11\n");
        assertThat(star.failure("2026-03-02")).contains("\"paid\" (sum(paid) = control: total): 10.50 instead of 11");
        assertThat(star.rows("select count(*) from dim_hut where code = 'CAN'")).containsExactly("0");
        star.write("control-2026-03-02.csv", "total\n11\n12\n");
        assertThat(star.failure("2026-03-02")).contains("says a total, and has 2 rows where one is expected");
        deliver("2026-03-03", "CAN,1,A,10.50");
        assertThat(star.failure("2026-03-03")).contains("10.50, and control has no delivery that says otherwise");
    }

    @Test
    void tablesAreJudgedAsTheyWillStandAndByVerify() {
        star.write("dimensions/hut.yaml", HUTS.formatted("") + """
                assert:
                  - {name: one hut a category, unique: category}
                  - {name: beds, rows: beds > 0, otherwise: note}
                """);
        deliver("2026-03-01", "ADL,1,A,1", "BER,0,B,1");
        assertThat(broken(star.loaded("2026-03-01", "dim_hut"))).containsExactly("beds: 1 row otherwise, note");
        deliver("2026-03-02", "CAN,1,B,1");
        assertThat(star.failure("2026-03-02"))
                .contains("\"one hut a category\" (category unique): 2 rows otherwise, such as category B");
        assertThat(star.rows("select code from dim_hut where hut_key > 0 order by code"))
                .containsExactly("ADL", "BER");
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .filteredOn(verdict -> !verdict.holds())
                .extracting(verdict -> verdict.claim() + " " + verdict.offending())
                .containsExactly("beds: beds > 0 1");
    }

    @Test
    void tooManyRowsSetAsideStopTheLoad() {
        star.write(
                "zeitkammer.yaml",
                "project: test\nwarehouses: {memory: {url: \"jdbc:duckdb:\"}}\nset-aside-limit: 50%\n");
        asserting("");
        deliver("2026-03-01", "ADL,1,A,1", ",1,A,1", "BER,many,A,1", "CAN,1,A,1");
        assertThat(star.loaded("2026-03-01", "dim_hut").counts()).containsEntry("setAside", 2L);
        star.write("dimensions/hut.yaml", HUTS.formatted("") + "set-aside-limit: 49.9%\n");
        deliver("2026-03-02", "DOR,1,A,1", ",1,A,1", "BER,many,A,1", "EIG,1,A,1");
        assertThat(star.failure("2026-03-02"))
                .contains(
                        "2 of 4 staged rows of dim_hut would be set aside, which is more than set-aside-limit: 49.9% lets through:"
                                + " 1 bad value (beds), 1 blank key (code).");
        assertThat(star.rows("select count(*) from dim_hut where code in ('DOR', 'EIG')"))
                .containsExactly("0");
        assertThat(star.setAside()).as("those of the first load only").hasSize(2);
    }

    @Test
    void whatCannotBeExpectedIsSaidWithItsPlace() {
        asserting("{rows: beds > 0, staged: 1..}");
        assertThatThrownBy(star::project)
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("found rows and staged");
        asserting("{unique: code, otherwise: set-aside}");
        assertThatThrownBy(star::project).hasMessageContaining("is for rows and values, where single rows fail");
        asserting("{staged: 50%..}");
        assertThatThrownBy(star::project).hasMessageContaining("expected bounds such as 1000..5000");
        asserting("{against-last: 5..6}");
        assertThatThrownBy(star::project).hasMessageContaining("expected bounds such as 50%..200%");
        asserting("{total: sum(paid), equals: {input: nobody, take: x}}");
        assertThatThrownBy(star::project).hasMessageContaining("there is no input \"nobody\"");
        asserting("{name: a, rows: beds > 0}, {name: a, rows: beds < 9}");
        assertThatThrownBy(star::project).hasMessageContaining("there is another assertion \"a\" here");
        asserting("{name: a, rows: bets > 0}");
        deliver("2026-03-01", "ADL,1,A,1");
        assertThat(star.failure("2026-03-01")).contains("bets");
        star.write("dimensions/hut.yaml", HUTS.formatted("") + "assert: [{rows: beds > 0, otherwise: set-aside}]\n");
        assertThatThrownBy(star::project).hasMessageContaining("rows of a table cannot be set aside");
    }

    @Test
    void whatNobodyWouldJudgeIsRefused() {
        asserting("");
        star.write("inputs/a.yaml", "input: a\nfiles: a.csv\nassert: [{name: x, staged: 1..}]\n");
        star.write("inputs/b.yaml", "input: b\nfiles: b.csv\nretain: true\n");
        star.write("inputs/c.yaml", "input: c\njoin: {from: a, with: [{input: b, by: code}]}\n");
        star.write("facts/pair.yaml", "fact: pair\nfrom: c\ngrain: code\nmeasures: {}\n");
        assertThatThrownBy(star::project)
                .hasMessageContaining("none is loaded from \"a\", which is part of other inputs only")
                .hasMessageContaining("none is loaded from \"b\"");
        star.write("facts/one.yaml", "fact: one\nfrom: a\ngrain: code\nmeasures: {}\n")
                .write("facts/two.yaml", "fact: two\nfrom: b\ngrain: code\nmeasures: {}\n");
        assertThat(star.project().facts()).hasSize(3);
    }

    @Test
    void boundsAreIncludedAndALoadOfNoRowsIsNoMeasureForTheNext() {
        asserting("{name: some, staged: 2..3}, {name: like last time, against-last: 50%..150%}");
        deliver("2026-03-01", "ADL,1,A,1", "BER,1,A,1");
        assertThat(broken(star.loaded("2026-03-01", "dim_hut"))).isEmpty();
        deliver("2026-03-02", "ADL,1,A,1", "BER,1,A,1", "CAN,1,A,1");
        assertThat(broken(star.loaded("2026-03-02", "dim_hut"))).as("150 %").isEmpty();
        asserting("{name: some, staged: 0..}, {name: like last time, against-last: 0%..150%}");
        star.write("huts-2026-03-03.csv", "code,beds,category,paid\n");
        assertThat(star.loaded("2026-03-03", "dim_hut").count("staged")).isZero();
        deliver("2026-03-04", "ADL,1,A,1", "BER,1,A,1");
        assertThat(broken(star.loaded("2026-03-04", "dim_hut"))).isEmpty();
    }
}
