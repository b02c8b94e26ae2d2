package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Parquet files whose types fit are read where they lie, several times. */
class ReadInPlaceTest {

    private static final String DAY = "2026-03-01";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder);
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts*.parquet"}
                key: code
                attributes: {beds: {type: 1, as: integer}}
                """);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void file(String name, String rows) {
        star.warehouse()
                .stager()
                .execute("copy (select * from (values " + rows + ") as t(code, beds)) to '" + folder.resolve(name)
                        + "' (format parquet)");
    }

    @Test
    void rowsAreKnownByTheirPlaceInTheirFile() {
        file("huts-1.parquet", "('ADL', 24), (null, 1), ('KAL', 60)");
        file("huts-2.parquet", "('SIL', 12), ('ADL', 25), (null, 2)");
        assertThat(star.loaded(DAY, "dim_hut").counts())
                .containsEntry("new", 2L)
                .containsEntry("setAside", 4L);
        assertThat(star.rows("select hut_key, code, beds from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("1|KAL|60", "2|SIL|12");
        assertThat(new Journal(star.warehouse()).setAside(Optional.empty()))
                .extracting(row -> row.reason() + " " + row.file() + ":" + row.line())
                .containsExactlyInAnyOrder(
                        "conflicting duplicate huts-1.parquet:1",
                        "blank key huts-1.parquet:2",
                        "conflicting duplicate huts-2.parquet:2",
                        "blank key huts-2.parquet:3");
    }

    @Test
    void aFileThatChangesUnderWayFailsTheLoadAndChangesNothing() {
        file("huts.parquet", "('ADL', 24)");
        star.loaded(DAY, "dim_hut");
        file("huts.parquet", "('ADL', 25), ('KAL', 60)");
        LoadListener changing = new LoadListener() {
            @Override
            public void step(String table, Caption now) {
                if (now.name().equals("changes")) {
                    file("huts.parquet", "('ADL', 26), ('KAL', 60), ('SIL', 12)");
                }
            }
        };
        LoadEntry load = new Loader(star.project(), star.warehouse(), changing, Clock.systemUTC())
                .load(Request.everything(LoadDate.parse(DAY)));
        assertThat(load.status()).isEqualTo(LoadStatus.FAILED);
        assertThat(load.tables().get(0).error().orElseThrow())
                .contains("huts.parquet", "was changed while it was being read", "load again");
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0"))
                .containsExactly("ADL|24");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("ADL|26", "KAL|60", "SIL|12");
    }
}
