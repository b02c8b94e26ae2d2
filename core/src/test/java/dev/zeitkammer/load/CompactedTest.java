package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.spy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.engine.CompactedException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.staging.LoadDate;
import java.nio.file.Path;
import java.time.Clock;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Others compact a table while it is loaded, so that nothing of the load can stand, though no row is another one. */
class CompactedTest {

    @TempDir
    Path folder;

    private TestStar star;
    private final List<String> notes = new ArrayList<>();

    @BeforeEach
    void makeStar() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "{date}/huts.csv"}
                        key: code
                        attributes: {beds: type 2}
                        """)
                .write("2026-03-01/huts.csv", "code,beds\nA,1\nB,2\nB,3\n");
    }

    @AfterEach
    void close() {
        star.close();
    }

    /** Loads once, while the table is compacted before the load is decided, so many times. */
    private LoadEntry loaded(int times) {
        Warehouse shared = spy(star.warehouse());
        int[] left = {times};
        doAnswer(call -> {
                    if (call.getArgument(0).equals("commit") && left[0]-- > 0) {
                        throw new CompactedException("dim_hut");
                    }
                    return call.callRealMethod();
                })
                .when(shared)
                .execute(anyString());
        LoadListener listener = new LoadListener() {
            @Override
            public void notes(String table, List<String> told) {
                notes.addAll(told);
            }
        };
        return new Loader(star.project(), shared, listener, Clock.systemUTC())
                .load(Request.everything(LoadDate.of(LocalDate.parse("2026-03-01"))));
    }

    @Test
    void theTableIsLoadedAgainThreeTimes() {
        LoadEntry load = loaded(3);
        assertThat(load.status()).as(load.toString()).isEqualTo(LoadStatus.DONE);
        assertThat(load.tables().get(0).count("new")).isEqualTo(1);
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0"))
                .hasSize(1);
        assertThat(star.setAside()).as("once, not with each try").hasSize(2);
        assertThat(notes).filteredOn(note -> note.contains("is loaded again")).hasSize(3);
    }

    /** A statement of the user's own that ran with a try which was taken back is not done; that of the last one is. */
    @Test
    void statementsOfATryThatWasTakenBackAreToldSo() {
        star.write("zeitkammer.yaml", star.read("zeitkammer.yaml") + """
                extra:
                  - {name: count huts, before: hut, in: transaction, sql: "select 1"}
                """);
        assertThat(loaded(1).extra()).extracting(run -> run.status()).containsExactly("taken back", "done");
    }

    @Test
    void afterThatItFails() {
        LoadEntry load = loaded(4);
        assertThat(load.status()).isEqualTo(LoadStatus.FAILED);
        assertThat(load.tables().get(0).error().orElseThrow())
                .contains("The files of dim_hut were rewritten while this load ran, again and again");
        assertThat(star.warehouse().has("dim_hut")).isFalse();
    }
}
