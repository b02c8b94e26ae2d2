package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Types are decided by all values, although a look at the first rows proves most texts to be texts. */
class InferenceTest {

    private static final int MORE_THAN_A_LOOK = 1500;

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder);
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}.csv"}
                key: code
                attributes: {a: type 1, b: type 1, c: type 1, d: type 1}
                """);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void deliver(String day, String usual, String last) {
        star.write(
                day + ".csv",
                "code,a,b,c,d\n"
                        + IntStream.range(0, MORE_THAN_A_LOOK)
                                .mapToObj(row -> "H" + row + "," + usual + "\n")
                                .collect(Collectors.joining())
                        + "L," + last + "\n");
    }

    private List<String> types() {
        return star.warehouse().columns("dim_hut").stream()
                .filter(column -> List.of("a", "b", "c", "d").contains(column.name()))
                .map(Column::type)
                .map(Object::toString)
                .toList();
    }

    @Test
    void theLastRowDecidesAsMuchAsTheFirst() {
        deliver("2026-03-01", "1,,2026-03-01,x", "0x1,7,2026-03-01 10:00:00,1");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(types()).containsExactly("varchar", "bigint", "timestamp", "varchar");
    }

    @Test
    void whatALookDecidesIsRemembered() {
        deliver("2026-03-01", "1,0.5,true,x", "2,0.25,false,y");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(types()).containsExactly("bigint", "decimal(18,2)", "boolean", "varchar");
        deliver("2026-03-02", "1,0.5,true,1", "2,0.25,false,2");
        star.loaded("2026-03-02", "dim_hut");
        assertThat(types()).containsExactly("bigint", "decimal(18,2)", "boolean", "varchar");
        assertThat(star.rows("select d from dim_hut where code = 'L'")).containsExactly("2");
    }
}
