package dev.zeitkammer.definition.check;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The order of work follows what reads what, and what is said. */
class LoadOrderTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void bookingsOfStays() {
        star = new TestStar(folder)
                .write(
                        "facts/stay.yaml",
                        "fact: stay\nfrom: {files: \"stays-{date}.csv\", columns: {no: integer, guests: integer}}\ngrain: no\ndegenerate: hut\nmeasures: {guests: integer}\n")
                .write("facts/a_sum.yaml", """
                        fact: a_sum
                        from:
                          query: |
                            select s.hut, cast(sum(s.guests) as integer) as guests
                            from main.fact_stay as s group by s.hut
                        grain: hut
                        measures: {guests: integer}
                        """);
    }

    private List<String> order() {
        return star.project().definitions().stream()
                .map(definition -> definition.name().text())
                .toList();
    }

    @Test
    void aFactThatReadsAnotherIsLoadedAfterIt() {
        assertThat(order()).containsExactly("stay", "a_sum");
        star.write("stays-2026-03-01.csv", "no,hut,guests\n1,ADL,2\n2,ADL,3\n3,BER,4\n");
        star.load("2026-03-01")
                .tables()
                .forEach(table -> assertThat(table.error()).isEmpty());
        assertThat(star.rows("select hut, guests from fact_a_sum order by hut")).containsExactly("ADL|5", "BER|4");
        star.write("stays-2026-03-02.csv", "no,hut\n1,ADL\n");
        assertThat(star.load("2026-03-02").tables())
                .extracting(entry -> entry.table() + " " + entry.status())
                .as("what reads a table that failed is not loaded")
                .containsExactly("fact_stay FAILED", "fact_a_sum BLOCKED");
    }

    @Test
    void afterSaysItWhereNobodyCanSeeIt() {
        star.write(
                "facts/a_sum.yaml",
                "fact: a_sum\nfrom: {files: x.csv}\ngrain: hut\nmeasures: {guests: integer}\nafter: fact_stay\n");
        assertThat(order()).containsExactly("stay", "a_sum");
        star.write("facts/a_sum.yaml", "fact: a_sum\nfrom: {files: x.csv}\ngrain: hut\nmeasures: {guests: integer}\n");
        assertThat(order()).containsExactly("a_sum", "stay");
        star.write(
                "facts/a_sum.yaml",
                "fact: a_sum\nfrom: {files: x.csv}\ngrain: hut\nmeasures: {guests: integer}\nafter: stays\n");
        assertThatThrownBy(this::order)
                .hasMessage(
                        "facts/a_sum.yaml:5:8: \"a_sum\" is to be loaded after \"stays\", and there is no such table; did you mean \"stay\"?");
    }

    @Test
    void circlesAndDimensionsThatReadFactsAreRefused() {
        star.write("facts/stay.yaml", star.read("facts/stay.yaml") + "after: a_sum\n");
        assertThatThrownBy(this::order)
                .hasMessageContaining("in a circle, so that none can be loaded first: a_sum → stay → a_sum");
        star.write("facts/stay.yaml", star.read("facts/stay.yaml").replace("after: a_sum\n", ""))
                .write("dimensions/hut.yaml", "dimension: hut\nfrom: {table: fact_stay}\nkey: hut\nattributes: {}\n");
        assertThatThrownBy(this::order).hasMessageContaining("the dimension \"hut\" reads the fact \"stay\"");
    }
}
