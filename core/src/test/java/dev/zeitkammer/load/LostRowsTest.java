package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.spy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.staging.LoadDate;
import java.nio.file.Path;
import java.time.Clock;
import java.time.LocalDate;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.stubbing.Answer;

/** An engine that does not keep what it says it wrote: each table fails before anything stands. */
class LostRowsTest {

    private static final String BROKEN = "did not keep what it said it wrote";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void makeStar() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "{date}/huts.csv"}
                        key: code
                        attributes: {beds: type 2}
                        """)
                .write("2026-03-01/huts.csv", "code,beds\nA,1\nA,1\nB,2\nC,3\n")
                .write("2026-03-02/huts.csv", "code,beds\nA,7\nB,8\nD,4\n");
    }

    @AfterEach
    void close() {
        star.close();
    }

    /** Loads a day on a warehouse where a statement is followed by another one that nobody knows of. */
    private TableEntry load(String date, String statement, String loss) {
        Warehouse losing = spy(star.warehouse());
        Answer<Object> loses = call -> {
            Object done = call.callRealMethod();
            String said = call.getMethod().getName() + " " + call.getArgument(0);
            if (said.contains(statement)) {
                star.warehouse().update(loss);
            }
            return done;
        };
        doAnswer(loses).when(losing).execute(anyString());
        doAnswer(loses).when(losing).keep(anyString(), anyString());
        doAnswer(loses).when(losing).append(anyString(), anyString());
        LoadEntry load = new Loader(star.project(), losing, LoadListener.NONE, Clock.systemUTC())
                .load(Request.everything(LoadDate.of(LocalDate.parse(date))));
        return load.tables().get(0);
    }

    private void assertRefused(TableEntry entry, String words) {
        assertThat(entry.status()).isEqualTo(LoadStatus.FAILED);
        assertThat(entry.error().orElseThrow()).contains(BROKEN, words, "Nothing of this table was changed");
    }

    @Test
    void rowsLostInAScratchTableMadeOfAQueryFailTheTable() {
        assertRefused(
                load("2026-03-01", "keep zk_duplicate_keys", "delete from zk_duplicate_keys"),
                "1 rows into zk_duplicate_keys, where 0 stand");
        assertThat(star.warehouse().has("dim_hut")).isFalse();
    }

    @Test
    void rowsLostInAScratchTableThatGotMoreFailTheTable() {
        assertRefused(load("2026-03-01", "append zk_out", "delete from zk_out"), "1 rows into zk_out");
    }

    @Test
    void rowsLostInTheTargetFailTheTable() {
        star.loaded("2026-03-01", "dim_hut");
        String before = star.rows("select * from dim_hut order by hut_key").toString();
        String target = star.warehouse().table("dim_hut");
        assertRefused(load("2026-03-02", "insert into " + target, "delete from dim_hut where code = 'D'"), "stand");
        assertRefused(load("2026-03-02", "update " + target, "update dim_hut set updated_by = 1"), "stand");
        assertThat(star.rows("select * from dim_hut order by hut_key").toString())
                .isEqualTo(before);
        assertThat(star.loaded("2026-03-02", "dim_hut").count("new")).isEqualTo(1);
    }

    @Test
    void rowsLostWhileStagingFailTheTable() {
        if (!TestWarehouses.onServer()) {
            assertRefused(load("2026-03-01", "keep zk_read", "delete from zk_read where code = 'C'"), "zk_read");
        }
    }
}
