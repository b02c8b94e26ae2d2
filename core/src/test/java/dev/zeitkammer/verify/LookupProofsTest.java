package dev.zeitkammer.verify;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.TestStar;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Damage to keys that point elsewhere, done by hand, is found out. */
@Tag("slow")
class LookupProofsTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void loaded() {
        star = new TestStar(folder)
                .write(
                        "dimensions/warden.yaml",
                        "dimension: warden\nfrom: {files: wardens.csv}\nkey: no\nattributes: {name: type 1}\n")
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: huts.csv, columns: {since: date}}
                        key: code
                        attributes: {beds: type 2}
                        history: {effective: since}
                        lookups: {warden: {match: no, type: 1}}
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: stays.csv, columns: {night: date}}
                        grain: stay_no
                        lookups: {hut: {as-of: night, match: code}}
                        degenerate: night
                        deletions: {when: "status = 'X'"}
                        """)
                .write("wardens.csv", "no,name\n1,Resi\n")
                .write("huts.csv", "code,since,beds,no\nA,2026-01-01,1,1\nA,2026-02-01,2,1\n")
                .write(
                        "stays.csv",
                        "stay_no,code,night,status\n1,A,2026-01-10,A\n2,A,2026-02-10,A\n3,B,2026-02-10,A\n");
        star.loaded("2026-03-01", "fact_stay");
        star.write("stays.csv", "stay_no,code,night,status\n3,B,2026-02-10,X\n");
        star.loaded("2026-03-02", "fact_stay");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private List<String> failing() {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(verdict -> verdict.table() + ": " + verdict.claim() + " " + verdict.offending())
                        .toList();
    }

    @Test
    void nothingFailsBeforeAndARemovedFactIsInTheBooks() {
        assertThat(failing()).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "update dim_hut set warden_key = 99 where hut_key = 1|dim_hut: warden_key is in dim_warden 1",
                "update dim_hut set warden_key = null where hut_key = -1|dim_hut: warden_key is in dim_warden 1",
                "update fact_stay set hut_key = 2 where stay_no = 1|fact_stay: hut_key is the version that was valid at the fact's date 1",
                "update fact_stay set night = date '2026-01-20' where stay_no = 2|fact_stay: hut_key is the version that was valid at the fact's date 1",
                "update fact_stay set hut_key = 77|fact_stay: hut_key is in dim_hut 2",
                "delete from fact_stay where stay_no = 1|fact_stay: there are as many rows as the books say 1",
                "create temp table twin as select * from fact_stay where stay_no = 1; update twin set stay_no = 9; insert into fact_stay select * from twin|fact_stay: there are as many rows as the books say 1",
                "insert into fact_stay select * from fact_stay where stay_no = 1|fact_stay: the grain is unique 1",
            })
    void damageIsFoundOut(String damage, String found) {
        star.warehouse().execute(damage);
        assertThat(failing()).contains(found);
    }

    /** Who was deleted then is nobody, to facts and to whoever looks at them: such a fact does not follow, and that is no mistake. */
    @Test
    void factsNeedNotPointAtWhoIsNobody() {
        star.write("dimensions/hut.yaml", star.read("dimensions/hut.yaml") + "deletions: {when: beds = '9'}\n")
                .write(
                        "facts/stay.yaml",
                        star.read("facts/stay.yaml").replace("night, match", "night, ended: unknown, match"));
        for (String row : List.of("A,2026-02-05,9", "A,2026-02-03,3")) {
            star.write("huts.csv", "code,since,beds,no\n" + row + ",1\n").loaded("2026-03-03", "fact_stay");
        }
        assertThat(star.rows("select stay_no, hut_key from fact_stay order by 1"))
                .as("it stays where it was found before the deletion")
                .containsExactly("1|1", "2|2");
        assertThat(failing()).isEmpty();
    }
}
