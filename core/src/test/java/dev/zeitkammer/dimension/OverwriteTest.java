package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Which versions overwritten values reach, and how previous values follow statement by statement. */
class OverwriteTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder);
        define("current");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void define(String overwrite) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date}}
                key: code
                attributes: {phone: type 1, zone: {type: 3, previous: former}, beds: type 2}
                history: {effective: since, overwrite: %s}
                """.formatted(overwrite));
    }

    private void deliver(String date, String... rows) {
        star.write("huts-" + date + ".csv", "code,since,phone,zone,beds\n" + String.join("\n", rows) + "\n");
        star.loaded(date, "dim_hut");
    }

    private List<String> versions() {
        return star.rows(
                "select version, beds, phone, zone, former, valid_from from dim_hut where hut_key > 0 order by 1");
    }

    @Test
    void theCurrentVersionOnlyIsOverwritten() {
        deliver("2026-03-01", "A,2026-01-01,111,n,1");
        deliver("2026-03-02", "A,2026-02-01,222,n,2");
        deliver("2026-03-03", "A,2026-02-02,333,n,2");
        assertThat(versions()).containsExactly("1|1|111|n|null|2026-01-01", "2|2|333|n|null|2026-02-01");
    }

    @Test
    void eachVersionKeepsWhatItsLastStatementSaid() {
        deliver("2026-03-01", "A,2026-01-01,111,n,1");
        deliver(
                "2026-03-02",
                "A,2026-02-01,222,n,1",
                "A,2026-02-02,333,n,2",
                "A,2026-02-03,444,n,2",
                "A,2026-02-04,555,n,3");
        assertThat(versions())
                .containsExactly("1|1|222|n|null|2026-01-01", "2|2|444|n|null|2026-02-02", "3|3|555|n|null|2026-02-04");
        deliver("2026-03-03", "A,2026-02-10,555,n,3", "A,2026-01-15,999,x,9");
        assertThat(versions())
                .as("a late row takes the values of its neighbour")
                .containsExactly(
                        "1|1|222|n|null|2026-01-01",
                        "2|9|222|n|null|2026-01-15",
                        "3|1|222|n|null|2026-02-01",
                        "4|2|444|n|null|2026-02-02",
                        "5|3|555|n|null|2026-02-04");
    }

    @Test
    void previousValuesFollowStatementByStatementOnAllVersions() {
        define("all");
        deliver("2026-03-01", "A,2026-01-01,111,n,1");
        deliver("2026-03-02", "A,2026-02-01,111,s,2", "A,2026-02-02,111,w,2", "A,2026-02-03,111,w,2");
        assertThat(versions()).containsExactly("1|1|111|w|s|2026-01-01", "2|2|111|w|s|2026-02-01");
        deliver("2026-03-03", "A,2026-02-04,222,,2");
        assertThat(versions()).containsExactly("1|1|222|null|w|2026-01-01", "2|2|222|null|w|2026-02-01");
        deliver("2026-03-04", "A,2026-01-10,333,e,2");
        assertThat(versions())
                .as("late rows change neither")
                .containsExactly("1|1|222|null|w|2026-01-01", "2|2|222|null|w|2026-01-10");
    }

    @Test
    void aMemberThatGoesForthAndBackIsOverwrittenWhenItsPreviousValueChanged() {
        define("all");
        deliver("2026-03-01", "A,2026-01-01,111,n,1");
        star.write("huts-2026-03-02.csv", "code,since,phone,zone,beds\nA,2026-02-01,111,s,1\nA,2026-02-02,111,n,1\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                .containsEntry("overwritten", 1L)
                .containsEntry("unchanged", 1L);
        assertThat(versions()).containsExactly("1|1|111|n|s|2026-01-01");
    }

    @Test
    void theLastOfSeveralRowsIsJudgedWithinItsMoment() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date, sent: timestamp}}
                key: code
                attributes: {beds: type 2}
                history: {effective: since}
                duplicates: last by sent
                """).write("huts-2026-03-01.csv", """
                        code,since,beds,sent
                        A,2026-01-01,1,2026-03-01 10:00:00
                        A,2026-01-01,2,2026-03-01 11:00:00
                        A,2026-01-01,2,2026-03-01 09:00:00
                        A,2026-02-01,3,
                        B,2026-01-01,1,2026-03-01 10:00:00
                        B,2026-01-01,2,2026-03-01 10:00:00
                        B,2026-01-01,3,2026-03-01 09:00:00
                        """);
        assertThat(star.loaded("2026-03-01", "dim_hut").counts())
                .containsEntry("new", 1L)
                .containsEntry("versioned", 1L)
                .containsEntry("repeated", 1L)
                .containsEntry("unchanged", 1L)
                .containsEntry("setAside", 3L);
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0 order by valid_from"))
                .containsExactly("A|2", "A|3");
    }
}
