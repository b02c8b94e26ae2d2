package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Keys of type 1 between dimensions, which follow to the newest version of the member. */
class NewestVersionsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder).write("dimensions/warden.yaml", """
                dimension: warden
                from: {files: "wardens-{date}.csv", columns: {no: varchar, since: date}}
                key: no
                attributes: {phone: type 2}
                history: {effective: since}
                """);
        star.write("wardens-2026-03-01.csv", "no,since,phone\nW,2026-01-01,11\n");
        star.write(
                "huts-2026-03-01.csv",
                "code,since,beds,no,parent\nA,2026-01-01,10,W,\nA,2026-02-01,12,W,\nB,2026-02-01,3,X,A\n");
    }

    private void hut(String more) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {code: varchar, since: date, no: varchar, parent: varchar}}
                key: code
                attributes: {beds: {type: 2, as: integer}}
                history: {effective: since%s}
                lookups:
                  warden: {match: no, type: 1}
                  over: {dimension: hut, match: parent, type: 1}
                """.formatted(more));
    }

    private void anotherPhone() {
        star.write("wardens-2026-03-02.csv", "no,since,phone\nW,2026-03-01,12\n");
    }

    private static final String HUTS =
            "select code, version, warden_key, over_key, updated_by from dim_hut where hut_key > 0 order by 1, 2";

    @Test
    void keysFollowAlthoughNothingIsDelivered() {
        hut("");
        star.load("2026-03-01");
        assertThat(star.rows(HUTS)).containsExactly("A|1|1|-2|1", "A|2|1|-2|1", "B|1|-1|3|1");
        anotherPhone();
        TableEntry entry = star.loaded("2026-03-02", "dim_hut");
        assertThat(entry.counts()).containsEntry("followed", 2L);
        assertThat(star.rows(HUTS)).containsExactly("A|1|2|-2|2", "A|2|2|-2|2", "B|1|-1|3|1");
        star.write("huts-2026-03-03.csv", "code,since,beds,no,parent\nA,2026-03-02,13,W,\n");
        assertThat(star.loaded("2026-03-03", "dim_hut").counts())
                .containsEntry("versioned", 1L)
                .containsEntry("followed", 1L);
        assertThat(star.rows("select code, version, over_key from dim_hut where code = 'B'"))
                .as("the parent has a newer version")
                .containsExactly("B|1|4");
        TableEntry nothing = star.load("2026-03-04").tables().get(1);
        assertThat(nothing.status()).isEqualTo(LoadStatus.SKIPPED);
    }

    @Test
    void onlyCurrentVersionsWhereThatIsSaid() {
        hut(", overwrite: current");
        star.load("2026-03-01");
        anotherPhone();
        star.load("2026-03-02");
        assertThat(star.rows(HUTS)).containsExactly("A|1|1|-2|1", "A|2|2|-2|2", "B|1|-1|3|1");
    }

    @Test
    void aDateDecidesNothing() {
        hut("");
        star.write(
                "dimensions/hut.yaml",
                star.read("dimensions/hut.yaml")
                        .replace("match: no, type: 1", "match: no, type: 1, before-first: first"));
        assertThatThrownBy(star::project).hasMessageContaining("a lookup of type 1 finds the newest version");
    }
}
