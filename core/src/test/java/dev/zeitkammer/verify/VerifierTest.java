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

/** Tables damaged by hand, in each way, are found out. */
@Tag("slow")
class VerifierTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void aLoadedStar() {
        star = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: huts.csv, columns: {since: date, status: varchar}}
                        key: code
                        attributes: {category: type 2}
                        history: {effective: since}
                        deletions: {when: "status = 'D'"}
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: stays.csv}
                        grain: stay_no
                        lookups: {hut: {match: code}}
                        """)
                .write("huts.csv", """
                        code,category,since,status
                        A,one,2026-03-01,
                        A,two,2026-03-05,
                        B,one,2026-03-01,
                        B,,2026-03-03,D
                        B,one,2026-03-06,
                        C,one,2026-03-01,
                        C,,2026-03-03,D
                        """)
                .write("stays.csv", "stay_no,code\n1,A\n2,\n");
        star.loaded("2026-03-10", "fact_stay");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private List<String> failing() {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(verdict -> verdict.table() + ": " + verdict.claim() + ": " + verdict.offending() + " of "
                                + verdict.examples().rows().size())
                        .toList();
    }

    @Test
    void findsNothingInASoundStar() {
        assertThat(failing()).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "update dim_hut set hut_key = 1 where hut_key = 2|dim_hut: surrogate keys are unique and never null: 1 of 1",
                "update dim_hut set hut_key = -3 where hut_key = -1|dim_hut: the reserved members are there: 1 of 1",
                "update dim_hut set code = null where code = 'B' and is_current|dim_hut: only reserved members have no business key: 1 of 1",
                "update dim_hut set is_current = true where code = 'A'|dim_hut: a member has exactly one current row: 1 of 1",
                "update dim_hut set is_current = false where code = 'A'|dim_hut: a member has exactly one current row: 1 of 1",
                "update dim_hut set is_current = not is_current where code = 'A'|dim_hut: the current version is the newest: 2 of 2",
                "update dim_hut set valid_to = date '2026-03-07' where code = 'A' and version = 1|dim_hut: versions do not overlap: 1 of 1",
                "update dim_hut set valid_to = date '2026-02-07' where code = 'A' and version = 1|dim_hut: versions end after they begin: 1 of 1",
                "update dim_hut set valid_to = valid_from where code = 'A' and version = 1|dim_hut: versions end after they begin: 1 of 1",
                "update dim_hut set valid_to = date '2026-03-03' where code = 'A' and version = 1|dim_hut: gaps follow a deletion only: 1 of 1",
                "update dim_hut set is_deleted = false where code = 'B'|dim_hut: gaps follow a deletion only: 1 of 1",
                "update dim_hut set is_deleted = false where code = 'C'|'dim_hut: the newest version is open, or its member is deleted: 1 of 1'",
                "update dim_hut set version = 3 where code = 'A' and is_current|dim_hut: versions are numbered 1 to n in order: 1 of 1",
                "delete from dim_hut where code = 'C'|dim_hut: each load's rows are as many as the books say: 1 of 1",
                "insert into fact_stay select * from fact_stay where stay_no = 1|fact_stay: the grain is unique: 1 of 1",
                "update fact_stay set hut_key = null where stay_no = 2|fact_stay: hut_key is never null: 1 of 1",
                "update fact_stay set hut_key = 4711|fact_stay: hut_key is in dim_hut: 2 of 2"
            })
    void findsEachDamage(String damage, String failing) {
        star.warehouse().execute(damage);
        assertThat(failing()).contains(failing);
    }
}
