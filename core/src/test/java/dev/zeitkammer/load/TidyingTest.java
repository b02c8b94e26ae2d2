package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.Upkeep;
import dev.zeitkammer.engine.Warehouse;
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
                assertThat(new Tidying(star.project(), star.warehouse()).size().bytes())
                        .isGreaterThan(done.get(0).after().bytes());
                // what the first one replaced within its own second goes with the next
                new Tidying(star.project(), star.warehouse()).tidy(List.of("hut"), 0);
                long statements = star.warehouse().statements();
                assertThat(new Tidying(star.project(), star.warehouse()).tidy(List.of("hut"), 0))
                        .as("nothing was written since")
                        .allMatch(each -> each.before().equals(each.after()));
                assertThat(star.warehouse().statements() - statements).isLessThan(12);
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

    /** An input's table is tidied where this program keeps it; one of the same name that somebody else made is not looked at. */
    @Test
    void tablesOfInputsAreTidiedToo() {
        try (TestStar star = new TestStar(folder)) {
            for (String name : List.of("huts", "wardens", "guests")) {
                star.write("inputs/" + name + ".yaml", """
                        input: %s
                        files: "{date}.csv"
                        %s
                        """.formatted(
                                name, name.equals("guests") ? "retain: true" : "keep: {by: code}"));
                star.write("dimensions/" + name + ".yaml", """
                        dimension: %s
                        from: %s
                        key: code
                        attributes: {name: type 1}
                        """.formatted(name.substring(0, name.length() - 1), name));
            }
            star.write("2026-03-01.csv", "code,name\nKAL,Kaltwasser\n");
            star.load("2026-03-01", "dim_hut", "dim_guest");
            Warehouse warehouse = star.warehouse();
            String staging = warehouse.dialect().quote(warehouse.stagingSchema());
            warehouse.execute("create table " + staging + ".wardens as select 1 as number");
            List<String> done = new Tidying(star.project(), warehouse)
                    .tidy(List.of(), 7).stream().map(Upkeep::what).toList();
            String schema = warehouse.stagingSchema() + ".";
            if (TestWarehouses.onCluster()) {
                assertThat(done).contains(schema + "huts", schema + "guests").doesNotContain(schema + "wardens");
            }
            if (TestWarehouses.onServer()) {
                long bytes = new Tidying(star.project(), warehouse).size().bytes();
                warehouse.execute("insert into " + staging + ".wardens select 1 from generate_series(1, 10000)");
                assertThat(new Tidying(star.project(), warehouse).size().bytes())
                        .as("rooms of others are not counted")
                        .isEqualTo(bytes)
                        .isPositive();
                assertThat(done).contains(schema + "huts", schema + "guests").doesNotContain(schema + "wardens");
            }
            assertThat(warehouse.number("select number from " + staging + ".wardens"))
                    .isEqualTo(1);
        }
    }
}
