package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.staging.RowsBack;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Rows that were set aside come back out of files: beside marks, and as a part that says nothing of others. */
class MendedRowsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void emptyStar() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .filteredOn(verdict -> !verdict.holds())
                .extracting(Verdict::claim)
                .isEmpty();
        star.close();
    }

    private List<List<Long>> resolved(long load, String table) {
        return Optional.ofNullable(new Journal(star.warehouse()).resolved().get(List.<Object>of(load, table))).stream()
                .toList();
    }

    private void stays() {
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.csv", columns: {no: integer, night: date, paid: integer}, newer-than: no, assert: [{staged: 2..}]}
                append: true
                degenerate: [no, night]
                measures: {paid: integer}
                """);
        star.write("stays-2026-03-01.csv", "no,night,paid\n1,2026-02-28,5\n2,2026-02-28,none\n3,2026-02-28,7\n");
        assertThat(star.loaded("2026-03-01", "fact_stay").counts())
                .containsEntry("new", 2L)
                .containsEntry("setAside", 1L);
    }

    @Test
    void aRowBehindTheMarkIsLoadedAndTheMarkStays() {
        stays();
        Journal journal = new Journal(star.warehouse());
        String before = journal.marks().toString();
        star.write("mended.csv", "no,night,paid\n2,2026-02-28,6\n");
        assertThat(star.mended("2026-03-01", "stay", OptionalLong.of(1), "mended.csv")
                        .counts())
                .containsEntry("staged", 1L)
                .containsEntry("new", 1L);
        assertThat(star.rows("select no, paid from fact_stay order by no")).containsExactly("1|5", "2|6", "3|7");
        assertThat(journal.marks()).hasToString(before);
        assertThat(resolved(1, "fact_stay")).containsExactly(List.of(2L));
        star.write("stays-2026-03-02.csv", "no,night,paid\n3,2026-02-28,7\n4,2026-03-01,8\n5,2026-03-01,8\n");
        assertThat(star.loaded("2026-03-02", "fact_stay").count("new"))
                .as("the next delivery goes on behind the mark")
                .isEqualTo(2);
    }

    @Test
    void whatResolvedIsTakenBackWithItsLoad() {
        stays();
        star.write("mended.csv", "no,night,paid\n2,2026-02-28,6\n");
        star.mended("2026-03-01", "stay", OptionalLong.of(1), "mended.csv");
        new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty());
        assertThat(star.rows("select no, paid from fact_stay order by no")).containsExactly("1|5", "3|7");
        assertThat(resolved(1, "fact_stay")).isEmpty();
    }

    @Test
    void nobodyIsAbsentAndNoFactIsRemoved() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", extract: full, required: true}
                        key: code
                        attributes: {beds: {type: 2, as: integer}}
                        deletions: {absent: close, limit: 100%}
                        """).write("facts/beds.yaml", """
                        fact: beds
                        from: {files: "beds-{date}.csv", columns: {day: date, taken: integer}}
                        grain: [code, day]
                        measures: {taken: integer}
                        replaces: day
                        """);
        star.write("huts-2026-03-01.csv", "code,beds\nADL,30\nBER,many\nCAN,7\n");
        star.write("beds-2026-03-01.csv", "code,day,taken\nADL,2026-03-01,3\nBER,2026-03-01,many\n");
        star.load("2026-03-01");
        star.write("huts.csv", "code,beds\nBER,12\n").write("beds.csv", "code,day,taken\nBER,2026-03-01,4\n");
        assertThat(star.mended("2026-03-01", "hut", OptionalLong.empty(), "huts.csv")
                        .counts())
                .containsEntry("new", 1L)
                .containsEntry("closed", 0L);
        assertThat(star.mended("2026-03-01", "beds", OptionalLong.empty(), "beds.csv")
                        .counts())
                .containsEntry("new", 1L)
                .containsEntry("removed", 0L);
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("ADL|30", "BER|12", "CAN|7");
        assertThat(star.rows("select code, taken from fact_beds order by 1")).containsExactly("ADL|3", "BER|4");
        assertThat(resolved(1, "dim_hut")).isEmpty();
    }

    /** Rows of a table come back as they were written out, whatever their columns are called. */
    @Test
    void rowsOfATableComeBack() {
        star.warehouse().execute("create table \"Delivered Huts\" (\"Code\" varchar(10), beds_txt varchar(10))");
        star.warehouse().execute("insert into \"Delivered Huts\" values ('ADL', '30'), ('BER', 'many')");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {table: "Delivered Huts"}
                key: code
                attributes: {beds: {type: 1, take: beds_txt, as: integer}}
                """);
        assertThat(star.loaded("2026-03-01", "dim_hut").count("setAside")).isEqualTo(1);
        Journal journal = new Journal(star.warehouse());
        var row = journal.setAside(Optional.of(1L)).get(0);
        Path file = folder.resolve("back.csv");
        new RowsBack(star.warehouse())
                .write(file, journal.form(row).orElseThrow(), List.of(String.valueOf(row.text())));
        star.write("mended.csv", star.read("back.csv").replace("many", "12"));
        assertThat(star.mended("2026-03-01", "hut", OptionalLong.of(1), "mended.csv")
                        .count("new"))
                .isEqualTo(1);
        assertThat(star.rows("select code, beds from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("ADL|30", "BER|12");
    }

    @Test
    void whatRemembersIsDeliveredAsEver() {
        star.write("inputs/rates.yaml", "input: rates\nfiles: rates.csv\nkeep: {by: code}\n")
                .write("facts/rate.yaml", "fact: rate\nfrom: rates\ngrain: code\nmeasures: {rate: integer}\n")
                .write("rates.csv", "code,rate\nA,1\n");
        assertThat(star.load("2026-03-01").status()).isEqualTo(LoadStatus.DONE);
        assertThatThrownBy(() -> star.mended("2026-03-01", "rate", OptionalLong.empty(), "rates.csv"))
                .isInstanceOf(UsageException.class)
                .hasMessageContaining("remembers the latest row of each key");
    }
}
