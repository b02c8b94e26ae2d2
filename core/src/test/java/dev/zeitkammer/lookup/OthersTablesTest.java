package dev.zeitkammer.lookup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Dimensions that others load are looked up by their own columns, and nothing is written to them. */
class OthersTablesTest {

    private static final String DATED = """
            dimension: valley
            table: masters.valley_list
            key: {valley: valley_code}
            others-load: {key: sk, from: begins, until: ends}
            history: {open-end: none%s}
            reserved: {unknown: {key: 0}, not-applicable: {key: -2}}
            """;

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void aListOfOthers() {
        star = new TestStar(folder)
                .write("dimensions/valley.yaml", DATED.formatted(""))
                .write("facts/tour.yaml", """
                fact: tour
                from: {files: "tours-{date}.csv", columns: {on: date}}
                grain: tour_no
                degenerate: [on]
                lookups: {valley: {as-of: on}}
                measures: {guests: integer}
                """);
        star.warehouse().execute("create schema if not exists masters");
        star.warehouse().execute("drop table if exists masters.valley_list");
        star.warehouse()
                .execute(
                        "create table masters.valley_list (sk bigint, valley_code varchar(10), name varchar(20), begins date, ends date, active varchar(1))");
        others(
                "(0, 'none', 'Unknown', date '1900-01-01', null, 'Y')",
                "(-2, null, 'No valley', date '1900-01-01', null, 'Y')",
                "(11, 'ELM', 'Elm', date '2026-01-01', date '2026-03-01', 'N')",
                "(12, 'ELM', 'Elmtal', date '2026-03-01', null, 'Y')",
                "(13, 'OAK', 'Oak', date '2026-01-01', date '2026-02-01', 'N')");
        star.write(
                "tours-2026-03-02.csv",
                "tour_no,on,valley,guests\n1,2026-02-28,ELM,2\n2,2026-03-01,ELM,3\n3,2026-03-02,ASH,4\n4,2026-03-02,,5\n5,2026-03-02,OAK,6\n");
    }

    @AfterEach
    void close() {
        star.warehouse().execute("drop table masters.valley_list");
        star.warehouse().execute("drop schema masters");
        star.close();
    }

    private void others(String... rows) {
        star.warehouse().execute("insert into masters.valley_list values " + String.join(", ", rows));
    }

    private String tours() {
        return String.join(" ", star.rows("select tour_no, valley_key from fact_tour order by tour_no"));
    }

    @Test
    void factsFindTheVersionOfTheirDateAndNothingIsWritten() {
        String before = String.join(" ", star.rows("select * from masters.valley_list order by sk"));
        LoadEntry load = star.load("2026-03-02");
        assertThat(load.tables())
                .singleElement()
                .satisfies(table -> assertThat(table.error()).isEmpty());
        assertThat(tours()).isEqualTo("1|11 2|12 3|0 4|-2 5|13");
        assertThat(String.join(" ", star.rows("select * from masters.valley_list order by sk")))
                .isEqualTo(before);
        assertThat(new Verifier(star.warehouse(), star.project())
                        .verify(star.project().definitions()))
                .isNotEmpty()
                .allMatch(Verdict::holds)
                .extracting(Verdict::table)
                .containsOnly("fact_tour");
    }

    /** The member comes, so the fact that waits at the stand-in finds it; a version comes between, and facts stay, or follow. */
    @Test
    void factsFindMembersThatOthersAddAndFollowWhereTheyAreAskedTo() {
        star.load("2026-03-02");
        others(
                "(14, 'ASH', 'Ash', date '2026-01-01', null, 'Y')",
                "(15, 'ELM', 'Elm!', date '2026-02-15', date '2026-03-01', 'N')");
        star.warehouse().execute("update masters.valley_list set ends = date '2026-02-15' where sk = 11");
        star.write("tours-2026-03-03.csv", "tour_no,on,valley,guests\n6,2026-02-20,ELM,1\n");
        star.load("2026-03-03");
        assertThat(tours()).isEqualTo("1|11 2|12 3|14 4|-2 5|13 6|15");
        star.write("dimensions/valley.yaml", DATED.formatted(", facts: follow"));
        star.write("tours-2026-03-04.csv", "tour_no,on,valley,guests\n7,2026-02-20,OAK,1\n");
        star.load("2026-03-04");
        assertThat(tours()).isEqualTo("1|15 2|12 3|14 4|-2 5|13 6|15 7|13");
    }

    /** Where a flag tells the current row, there are no dates; where nothing does, a member has one row. */
    @Test
    void theCurrentRowIsKnownByAnyCondition() {
        star.write("dimensions/valley.yaml", """
                dimension: valley
                table: masters.valley_list
                key: {valley: valley_code}
                others-load: {key: sk, current: "active = 'Y'"}
                reserved: {unknown: {key: 0}}
                """);
        assertThatThrownBy(() -> star.load("2026-03-02"))
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("\"as-of\" needs dates")
                .hasMessageContaining("say from: (and until:)");
        star.write("facts/tour.yaml", star.read("facts/tour.yaml").replace("{as-of: on}", "{unmatched: set-aside}"));
        star.load("2026-03-02");
        assertThat(tours()).as("OAK has no current row").isEqualTo("1|12 2|12 4|-2");
        star.write(
                "dimensions/valley.yaml",
                "dimension: valley\ntable: masters.valley_list\nkey: {valley: valley_code}\nothers-load: {key: sk}\n");
        assertThat(star.load("2026-03-02").tables().get(0).error().orElseThrow())
                .contains("ELM")
                .contains("masters.valley_list");
    }

    @Test
    void whatIsMissingIsSaidBeforeAnythingIsWritten() {
        star.write("dimensions/valley.yaml", star.read("dimensions/valley.yaml").replace("{key: 0}", "{key: -1}"));
        assertThat(star.load("2026-03-02").tables().get(0).error().orElseThrow())
                .contains("masters.valley_list, which others load, has no row with the key -1")
                .contains("or say unmatched: set-aside in the lookup");
        assertThat(star.warehouse().has("fact_tour")).isFalse();
        star.write("dimensions/valley.yaml", DATED.formatted("").replace("valley_list", "valleys"));
        assertThat(star.load("2026-03-02").tables().get(0).error().orElseThrow())
                .contains("Cannot read masters.valleys, which others load");
        assertThatThrownBy(() -> star.load("2026-03-02", "valley"))
                .isInstanceOf(UsageException.class)
                .hasMessageContaining("Others load masters.valleys");
        star.write("dimensions/valley.yaml", DATED.formatted("") + "attributes: {name: type 1}\n");
        assertThatThrownBy(() -> star.load("2026-03-02")).hasMessageContaining("unknown keyword \"attributes\"");
        star.write("dimensions/valley.yaml", DATED.formatted(""));
        star.write(
                "facts/tour.yaml",
                star.read("facts/tour.yaml").replace("as-of: on", "as-of: on, unmatched: placeholder"));
        assertThatThrownBy(() -> star.load("2026-03-02")).hasMessageContaining("no placeholder can be made there");
    }

    /** A dimension looks it up by version; of facts, one waits, and one asks for the ended. */
    @Test
    void everyKindOfLookupReadsThem() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date}}
                key: code
                attributes: {name: type 1}
                history: {effective: since}
                lookups: {valley: {type: 2}}
                """).write("facts/visit.yaml", """
                fact: visit
                from: {files: "tours-{date}.csv", columns: {on: date}}
                grain: [on, valley]
                lookups: {newest: {dimension: valley, match: valley, unmatched: wait, blank: set-aside}, open: {dimension: valley, match: valley, ended: unknown, unmatched: unknown}}
                measures: {guests: integer}
                """);
        star.write("huts-2026-03-02.csv", "code,name,valley,since\nH1,One,ELM,2026-02-10\nH2,Two,ASH,2026-02-10\n");
        star.load("2026-03-02")
                .tables()
                .forEach(table -> assertThat(table.error()).as(table.table()).isEmpty());
        assertThat(star.rows("select code, valley_key from dim_hut where code is not null order by code"))
                .containsExactly("H1|11", "H2|0");
        String visits = "select \"on\", newest_key, open_key from fact_visit order by 1, 2";
        assertThat(star.rows(visits)).containsExactly("2026-02-28|12|12", "2026-03-01|12|12", "2026-03-02|13|0");
        others("(14, 'ASH', 'Ash', date '2026-01-01', null, 'Y')");
        star.write("huts-2026-03-03.csv", "code,name,valley,since\nH1,Uno,OAK,2026-03-03\n");
        star.write("tours-2026-03-03.csv", "tour_no,on,valley,guests\n9,2026-03-04,ELM,1\n");
        star.load("2026-03-03")
                .tables()
                .forEach(table -> assertThat(table.error()).as(table.table()).isEmpty());
        assertThat(star.rows(visits)).contains("2026-03-02|14|14", "2026-03-04|12|12");
        assertThat(star.rows("select valley_key from dim_hut where code = 'H1' order by valid_from"))
                .containsExactly("11", "13");
        assertThat(new Verifier(star.warehouse(), star.project())
                        .verify(star.project().definitions()))
                .allMatch(Verdict::holds);
    }
}
