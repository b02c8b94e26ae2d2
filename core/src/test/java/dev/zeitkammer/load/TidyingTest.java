package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.Upkeep;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Upkeep of files: no row changes, and on a cluster many files become few. */
class TidyingTest {

    private static final String ROWS =
            "select code, name, version, is_current, inserted_by, updated_by from dim_hut order by code, version";

    @TempDir
    Path folder;

    @Test
    void rowsStayAndFilesBecomeFew() {
        try (TestStar star = new TestStar(folder)) {
            star.write("zeitkammer.yaml", star.read("zeitkammer.yaml") + "tidy: every 2 loads\n");
            star.write("dimensions/hut.yaml", """
                    dimension: hut
                    from: {files: "huts-{date}.csv"}
                    key: code
                    attributes: {name: type 2}
                    """)
                    .write("huts-2026-03-01.csv", "code,name\nKAL,Kaltwasser\nADL,Adlerhorst\n")
                    .write("huts-2026-03-02.csv", "code,name\nKAL,Warmwasser\nBIR,Birkensee\n");
            star.loaded("2026-03-01", "dim_hut");
            star.loaded("2026-03-02", "dim_hut");
            List<String> before = star.rows(ROWS);

            List<Upkeep> done = new Tidying(star.project(), star.warehouse()).tidy(List.of("hut"), 0);

            assertThat(star.rows(ROWS)).isEqualTo(before).hasSize(6);
            assertThat(done).hasSize(1);
            if (TestWarehouses.onServer()) {
                assertThat(done.get(0).what()).isEqualTo("public.dim_hut");
                assertThat(done.get(0).after().bytes()).isPositive();
            }
            if (TestWarehouses.onCluster()) {
                assertThat(done.get(0).before().files().getAsLong()).isGreaterThan(4);
                assertThat(done.get(0).after().files().getAsLong()).isLessThan(3);
                assertThat(done.get(0).after().bytes())
                        .isLessThan(done.get(0).before().bytes());
            }
            if (!TestWarehouses.onCluster()) {
                Tidying tidying = new Tidying(star.project(), star.warehouse());
                assertThat(tidying.after(1)).isEmpty();
                assertThat(tidying.after(2)).isPresent();
            }
            star.write("huts-2026-03-03.csv", "code,name\nKAL,Kaltwasser\n");
            assertThat(star.loaded("2026-03-03", "dim_hut").counts()).containsEntry("versioned", 1L);
            assertThat(new Tidying(star.project(), star.warehouse()).tidy(List.of(), 7))
                    .isNotEmpty();
        }
    }
}
