package dev.zeitkammer.definition.reading;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.load.TestCluster;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** {@code layout}, which only a cluster goes by. */
class LayoutTest {

    @TempDir
    Path folder;

    private TestStar star(String layout) {
        return new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", columns: {opened_on: date}}
                        key: code
                        attributes: {name: type 1, opened_on: type 2}
                        layout: %s
                        """.formatted(layout))
                .write(
                        "huts-2026-03-01.csv",
                        "code,name,opened_on\nKAL,Kaltwasser,1931-06-01\nADL,Adlerhorst,1911-07-01\n");
    }

    @Test
    void rowsLieAsTheDefinitionSays() {
        try (TestStar star =
                star("{partition: [year(opened_on), is_current, \"bucket(4, code)\"], sort: [code, valid_from]}")) {
            assertThat(star.loaded("2026-03-01", "dim_hut").inserted()).isEqualTo(2);
            if (TestWarehouses.onCluster()) {
                assertThat(TestCluster.layout(star.warehouse(), star.warehouse().table("dim_hut")))
                        .contains("years(opened_on)", "is_current", "bucket(4, code)", "code ASC NULLS FIRST");
            }
        }
    }

    @Test
    void whatCannotBeIsRefusedWithItsPlace() {
        assertThatThrownBy(() -> star("{partition: century(opened_on)}").load("2026-03-01"))
                .hasMessageContaining(
                        "dimensions/hut.yaml:5:21: \"partition\" is \"century(opened_on)\"; expected a column, or year");
        try (TestStar star = star("{sort: [cod]}")) {
            assertThat(star.failure("2026-03-01"))
                    .contains("dimensions/hut.yaml:5:17: \"layout\" names cod, which is no column of dim_hut", "code");
        }
    }
}
