package dev.zeitkammer.past;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.Undo;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What a table said after each load, in SQL; undo of single tables; images of single tables. */
@Tag("slow")
class KnownViewTest {

    private static final String ROWS =
            "select hut_key, code, beds, area, valid_from, valid_to, is_current, version, last_stated, is_deleted, updated_by from ";

    @TempDir
    Path folder;

    private TestStar star(String more) {
        return new TestStar(folder).write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", columns: {since: date}}
                        key: code
                        attributes: {beds: {type: 2, as: integer}, area: {type: 1, as: varchar}}
                        history: {effective: since}
                        deletions: {when: "beds = -1"}
                        """ + more).write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv", columns: {no: integer}}
                        grain: no
                        lookups: {hut: {match: code}}
                        measures: {guests: integer}
                        deletions: {when: "guests = -1"}
                        known-view: stay_known
                        """);
    }

    /** Random loads: the view says for each load what the table said then, row by row. */
    @Test
    void theViewSaysWhatTheTableSaidAfterEachLoad() {
        Random random = new Random(7);
        Map<Long, List<String>> huts = new TreeMap<>();
        Map<Long, List<String>> stays = new TreeMap<>();
        try (TestStar star = star("known-view: hut_known\n")) {
            for (int day = 1; day <= 9; day++) {
                StringBuilder rows = new StringBuilder("code,beds,area,since\n");
                StringBuilder nights = new StringBuilder("no,code,guests\n");
                for (int hut = 0; hut < 6; hut++) {
                    if (random.nextInt(3) > 0) {
                        rows.append("h" + hut + "," + (random.nextInt(6) == 0 ? -1 : random.nextInt(3)) + ",a"
                                + random.nextInt(2) + ",2026-03-0" + (1 + random.nextInt(9)) + "\n");
                    }
                    nights.append(hut + random.nextInt(3))
                            .append(",h")
                            .append(hut)
                            .append(',')
                            .append(random.nextInt(5) == 0 ? -1 : random.nextInt(3))
                            .append('\n');
                }
                star.write("huts-2026-03-0" + day + ".csv", rows.toString());
                star.write("stays-2026-03-0" + day + ".csv", nights.toString());
                assertThat(star.load("2026-03-0" + day).status()).isEqualTo(LoadStatus.DONE);
                huts.put((long) day, star.rows(ROWS + "dim_hut order by hut_key"));
                stays.put((long) day, star.rows("select no, hut_key, guests, updated_by from fact_stay order by no"));
            }
            huts.forEach((load, rows) -> assertThat(star.rows(ROWS + "hut_known where " + load
                            + " between known_from_load and known_until_load order by hut_key"))
                    .as("huts after load " + load)
                    .isEqualTo(rows));
            stays.forEach(
                    (load, rows) -> assertThat(star.rows("select no, hut_key, guests, updated_by from stay_known where "
                                    + load + " between known_from_load and known_until_load order by no"))
                            .as("stays after load " + load)
                            .isEqualTo(rows));
            star.write(
                    "dimensions/hut.yaml",
                    star.read("dimensions/hut.yaml")
                            .replace(
                                    "area: {type: 1, as: varchar}",
                                    "area: {type: 1, as: varchar}, warden: {type: 1, as: varchar}"));
            star.write("huts-2026-03-10.csv", "code,beds,area,warden,since\nh1,77,x,Aita,2026-03-10\n");
            assertThat(star.load("2026-03-10").status()).isEqualTo(LoadStatus.DONE);
            assertThat(star.rows("select warden from hut_known where beds = 77"))
                    .containsExactly("Aita");
        }
    }

    @Test
    void singleTablesAreTakenBack() {
        try (TestStar star = star("")) {
            star.write("huts-2026-03-01.csv", "code,beds,area,since\nADL,30,n,2026-01-01\n");
            star.write("stays-2026-03-01.csv", "no,code,guests\n1,ADL,2\n");
            star.load("2026-03-01");
            star.write("huts-2026-03-02.csv", "code,beds,area,since\nADL,31,n,2026-02-01\nBER,12,s,2026-02-01\n");
            star.write("stays-2026-03-02.csv", "no,code,guests\n1,ADL,5\n2,BER,1\n");
            star.load("2026-03-02");
            Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
            assertThatThrownBy(() -> undo.undo(Optional.empty(), List.of("hut")))
                    .isInstanceOf(GuardException.class)
                    .hasMessageContaining("rows of fact_stay point at members of dim_hut that it inserted (hut_key)");
            assertThat(undo.show(Optional.empty(), List.of("stay")).get(0).tables())
                    .extracting(taken -> taken.table())
                    .containsExactly("fact_stay");
            undo.undo(Optional.empty(), List.of("stay"));
            assertThat(star.rows("select no, guests from fact_stay")).containsExactly("1|2");
            assertThat(star.rows("select count(*) from dim_hut where hut_key > 0"))
                    .as("the dimension stands")
                    .containsExactly("3");
            assertThat(failing(star)).isEmpty();
            undo.undo(Optional.empty(), List.of("hut"));
            assertThat(star.rows("select code, beds, is_current from dim_hut where hut_key > 0"))
                    .containsExactly("ADL|30|true");
            assertThat(failing(star)).isEmpty();
            assertThatThrownBy(() -> undo.undo(Optional.of(2L), List.of("hut")))
                    .isInstanceOf(UsageException.class)
                    .hasMessageContaining("There is no load 2 to take back");
            star.load("2026-03-02");
            assertThat(star.rows("select no, guests from fact_stay order by no"))
                    .containsExactly("1|5", "2|1");
            assertThat(failing(star)).isEmpty();
        }
    }

    private static List<String> failing(TestStar star) {
        return new ArrayList<>(new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(Verdict::claim)
                        .toList());
    }

    @Test
    void oneTableKeepsImagesAndAnotherDoesNot() {
        try (TestStar star = star("images: none\n")) {
            star.write("huts-2026-03-01.csv", "code,beds,area,since\nADL,30,n,2026-01-01\n");
            star.write("stays-2026-03-01.csv", "no,code,guests\n1,ADL,2\n");
            star.load("2026-03-01");
            Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
            assertThatThrownBy(() -> undo.undo(Optional.empty()))
                    .hasMessageContaining("rows of dim_hut as they were before are kept of none of its loads");
            undo.undo(Optional.empty(), List.of("stay"));
            assertThat(star.rows("select count(*) from fact_stay")).containsExactly("0");
        }
    }

    /** What a load writes over that it has written itself stood for nobody: a feed's value is all that was ever known. */
    @Test
    void aLoadKeepsNoImageOfItsOwnRows() {
        try (TestStar star = star("")) {
            star.write(
                    "facts/stay.yaml",
                    star.read("facts/stay.yaml").replace("deletions: {when: \"guests = -1\"}\n", "")
                            + "feeds: [{from: {files: \"arrivals-{date}.csv\", columns: {no: integer}}, match: no, updates: guests}]\n");
            star.write("huts-2026-03-01.csv", "code,beds,area,since\nADL,30,n,2026-01-01\n");
            star.write("stays-2026-03-01.csv", "no,code,guests\n1,ADL,2\n2,ADL,3\n");
            star.write("arrivals-2026-03-01.csv", "no,guests\n1,4\n");
            star.load("2026-03-01");
            star.write("arrivals-2026-03-02.csv", "no,guests\n2,5\n");
            star.load("2026-03-02");
            assertThat(star.rows("select no, guests, known_from_load, known_until_load from stay_known order by 1, 3"))
                    .containsExactly("1|4|1|9223372036854775806", "2|3|1|1", "2|5|2|9223372036854775806");
        }
    }
}
