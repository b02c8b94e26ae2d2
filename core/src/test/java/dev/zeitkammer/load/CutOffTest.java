package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.spy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.time.LocalDate;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.stubbing.Answer;

/** A warehouse that fails at the n-th statement of a load, for every n: nothing half done, and the next load makes it good. */
@Tag("slow")
class CutOffTest {

    private static final String TABLES =
            "select 'hut', hut_key, code, category, cast(valid_from as varchar), cast(valid_to as"
                    + " varchar) from dim_hut union all select 'stay', hut_key, cast(stay_no as varchar), null, null, null from"
                    + " fact_stay order by 1, 2, 3";

    @TempDir
    Path folder;

    private TestStar star(String name) {
        return new TestStar(folder.resolve(name))
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "{date}/huts.csv", columns: {since: date}}
                        key: code
                        attributes: {category: type 2}
                        history: {effective: since}
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "{date}/stays.csv", columns: {night: date}}
                        grain: stay_no
                        lookups: {hut: {match: code, as-of: night}}
                        """)
                .write("2026-03-01/huts.csv", "code,category,since\nA,one,2026-03-01\nB,one,2026-03-01\n")
                .write("2026-03-01/stays.csv", "stay_no,code,night\n1,A,2026-03-01\n")
                .write(
                        "2026-03-02/huts.csv",
                        "code,category,since\nA,two,2026-03-02\nC,one,2026-03-02\nC,two,2026-03-01\n")
                .write("2026-03-02/stays.csv", "stay_no,code,night\n2,A,2026-03-02\n1,B,2026-03-01\n");
    }

    @Test
    void theNextLoadEndsWhereAnUndisturbedOneWouldHave() {
        List<String> calm;
        try (TestStar star = star("calm")) {
            star.load("2026-03-01");
            star.load("2026-03-02");
            calm = star.rows(TABLES);
        }
        boolean reached = true;
        int statement = 1;
        for (; reached; statement += 3) {
            try (TestStar star = star("cut-" + statement)) {
                star.load("2026-03-01");
                List<String> before = star.rows(TABLES);
                reached = cut(star, statement);
                List<String> after = star.rows(TABLES);
                for (String table : List.of("hut", "stay")) {
                    assertThat(of(table, after))
                            .as("each table is loaded whole or not at all")
                            .isIn(of(table, before), of(table, calm));
                }
                assertThat(star.load("2026-03-02").status()).isEqualTo(LoadStatus.DONE);
                assertThat(star.rows(TABLES))
                        .as("cut off at statement " + statement)
                        .isEqualTo(calm);
                assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                        .allMatch(Verdict::holds);
            }
        }
        assertThat(statement).as("statements of a load").isGreaterThan(30);
    }

    private static List<String> of(String table, List<String> rows) {
        return rows.stream().filter(row -> row.startsWith(table)).toList();
    }

    /** Loads the second day on a warehouse whose connection is lost at a statement; false when the load never came that far. */
    private static boolean cut(TestStar star, int statement) {
        AtomicInteger executed = new AtomicInteger();
        Warehouse failing = spy(star.warehouse());
        Answer<Object> lost = call -> {
            if (executed.incrementAndGet() >= statement) {
                throw new WarehouseException("the connection was lost", null);
            }
            return call.callRealMethod();
        };
        doAnswer(lost).when(failing).execute(anyString());
        doAnswer(lost).when(failing).keep(anyString(), anyString());
        doAnswer(lost).when(failing).append(anyString(), anyString());
        doAnswer(lost).when(failing).name(anyString(), anyString());
        doAnswer(lost).when(failing).update(anyString(), any(Object[].class));
        try {
            LoadEntry load = new Loader(star.project(), failing, LoadListener.NONE, Clock.systemUTC())
                    .load(Request.everything(LoadDate.of(LocalDate.parse("2026-03-02"))));
            boolean failed = load.status() == LoadStatus.FAILED;
            assertThat(failed).isEqualTo(executed.get() >= statement);
            return failed;
        } catch (WarehouseException outsideOfATable) {
            return true;
        }
    }
}
