package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.Loader.Rehearsal;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.step.ChangedAttribute;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Rehearsals of several tables at once: what would change, in words that a reader knows, and nothing kept. */
class RehearsalTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder)
                .write(
                        "dimensions/warden.yaml",
                        "dimension: warden\nfrom: {files: \"wardens-{date}.csv\"}\nkey: no\nattributes: {name: type 1}\n")
                .write("wardens-2026-03-01.csv", "no,name\n1,Resi\n2,Toni\n")
                .write("huts-2026-03-01.csv", "code,up,no,region,beds\nA,,1,south,10\nB,A,2,north,20\n");
        hut("");
        star.loaded("2026-03-01", "dim_hut");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void hut(String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv"}
                key: code
                attributes: {region: {type: 3, previous: former}%s}
                lookups: {warden: {match: no, type: 2}, parent: {dimension: hut, match: up, type: 1}}
                """.formatted(more));
    }

    private List<String> rehearsed(String date) {
        Rehearsal rehearsal = new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC())
                .rehearse(LoadDate.parse(date), List.of());
        return rehearsal.changed().stream().flatMap(RehearsalTest::told).toList();
    }

    private static Stream<String> told(ChangedAttribute changed) {
        return changed.values().stream()
                .map(value -> changed.attribute() + " of " + value.member() + ": " + value.before() + " → "
                        + value.after() + ", " + value.causes());
    }

    @Test
    void whatWouldBeSetAsideIsToldAndNotKept() {
        star.write("huts-2026-03-02.csv", "code,up,no,region,beds\nA,,1,south,10\n,A,2,north,20\nC,A,2\n");
        Rehearsal rehearsal = new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC())
                .rehearse(LoadDate.parse("2026-03-02"), List.of());
        assertThat(rehearsal.notLoaded())
                .extracting(row -> row.table() + ": " + row.reason() + " " + row.line() + " " + row.text())
                .containsExactlyInAnyOrder("dim_hut: blank key 3 ,A,2,north,20", "dim_hut: bad line 4 C,A,2");
        assertThat(star.setAside()).isEmpty();
    }

    @Test
    void keysAreToldByTheMembersTheyPointAt() {
        star.write("wardens-2026-03-02.csv", "no,name\n3,Vreni\n")
                .write("huts-2026-03-02.csv", "code,up,no,region,beds\nA,C,3,west,10\nC,,1,south,5\n");
        assertThat(rehearsed("2026-03-02"))
                .contains(
                        "warden_key of A: 1 → 3, new version",
                        "parent_key of A: -2 → C, in place",
                        "region of A: south → west, in place",
                        "former of A: null → south, in place");
        assertThat(star.rows("select count(*) from dim_hut")).containsExactly("4");
        assertThat(star.rows("select count(*) from dim_warden")).containsExactly("4");
        assertThat(star.rows("select count(*) from zeitkammer.loads")).containsExactly("1");
    }

    @Test
    void aNewAttributeIsToldAsFilled() {
        hut(", beds: type 2");
        star.write("huts-2026-03-02.csv", "code,up,no,region,beds\nA,,1,south,10\nB,A,2,north,20\n");
        assertThat(rehearsed("2026-03-02"))
                .containsExactly("beds of A: null → 10, in place", "beds of B: null → 20, in place");
        assertThat(star.warehouse().columns("dim_hut"))
                .extracting(column -> column.name())
                .doesNotContain("beds");
    }
}
