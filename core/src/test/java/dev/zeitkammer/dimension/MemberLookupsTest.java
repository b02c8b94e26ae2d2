package dev.zeitkammer.dimension;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Keys of other members in a dimension: of another dimension, and of the parent in the same one. */
class MemberLookupsTest {

    private static final String HUTS = "select hut_code, warden_key, valid_from, version from dim_hut where hut_key > 0"
            + " order by hut_code, version";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder)
                .write("dimensions/a_hut.yaml", hut("type: 2"))
                .write("dimensions/warden.yaml", """
                        dimension: warden
                        from: {files: "wardens-{date}.csv"}
                        key: warden_no
                        attributes: {name: type 2}
                        """);
        wardens("2026-03-01", "1,Resi\n2,Toni\n");
        huts("2026-03-01", "HA,1,\nHB,2,\n");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private static String hut(String warden) {
        return """
                dimension: hut
                from: {files: "huts-{date}.csv"}
                key: hut_code
                attributes: {label: type 1}
                lookups: {warden: {%s}}
                """.formatted(warden);
    }

    private void wardens(String date, String rows) {
        star.write("wardens-" + date + ".csv", "warden_no,name\n" + rows);
    }

    private void huts(String date, String rows) {
        star.write("huts-" + date + ".csv", "hut_code,warden_no,label\n" + rows);
    }

    @Test
    void whatIsLookedUpIsLoadedFirstWhateverTheNames() {
        assertThat(star.load("2026-03-01").tables())
                .extracting(TableEntry::table)
                .containsExactly("dim_warden", "dim_hut");
        assertThat(star.rows(HUTS)).containsExactly("HA|1|2026-03-01|1", "HB|2|2026-03-01|1");
    }

    @Test
    void aNewVersionOfTheWardenMakesNoneOfTheHutButAnotherWardenDoes() {
        star.load("2026-03-01");
        wardens("2026-03-02", "1,Therese\n2,Toni\n");
        huts("2026-03-02", "HA,1,\nHB,1,\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                .containsEntry("unchanged", 1L)
                .containsEntry("versioned", 1L);
        assertThat(star.rows(HUTS)).containsExactly("HA|1|2026-03-01|1", "HB|2|2026-03-01|1", "HB|3|2026-03-02|2");
    }

    @Test
    void underType1TheKeyIsOverwrittenAndFollowsToTheNewestVersion() {
        star.write("dimensions/a_hut.yaml", hut("type: 1"));
        star.load("2026-03-01");
        wardens("2026-03-02", "1,Therese\n");
        huts("2026-03-02", "HA,1,new\nHB,1,\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").count("overwritten")).isEqualTo(2);
        assertThat(star.rows("select hut_code, warden_key, label from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("HA|3|new", "HB|3|null");
    }

    @Test
    void noValueAndAValueOfNobodyAreReservedMembersAndCounted() {
        huts("2026-03-01", "HA,9,\nHB,,\n");
        TableEntry hut = star.loaded("2026-03-01", "dim_hut");
        assertThat(hut.lookups().get("warden"))
                .containsEntry("unmatched", 1L)
                .containsEntry("blank", 1L)
                .containsEntry("matched", 0L);
        assertThat(star.rows("select hut_code, warden_key from dim_hut order by hut_key"))
                .containsExactly("null|-2", "null|-1", "HA|-1", "HB|-2");
        huts("2026-03-02", "HA,1,\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").count("versioned")).isEqualTo(1);
    }

    @Test
    void unmatchedRowsAreSetAsideOrStopTheLoadWhereTheDefinitionSaysSo() {
        star.write("dimensions/a_hut.yaml", hut("type: 2, unmatched: set-aside"));
        huts("2026-03-01", "HA,9,\nHB,2,\n");
        assertThat(star.loaded("2026-03-01", "dim_hut").count("setAside")).isEqualTo(1);
        assertThat(star.setAside()).containsExactly("unmatched|warden_no|9|2|HA,9,");
        star.write("dimensions/a_hut.yaml", hut("type: 2, unmatched: stop"));
        huts("2026-03-02", "HA,9,\n");
        assertThat(star.failure("2026-03-02")).contains("The lookup \"warden\" stops the load", "\"9\"");
    }

    @Test
    void aWardenThatFailedBlocksTheHuts() {
        star.write("wardens-2026-03-01.csv", "number,name\n1,Resi\n");
        assertThat(star.load("2026-03-01").tables())
                .extracting(TableEntry::status)
                .containsExactly(LoadStatus.FAILED, LoadStatus.BLOCKED);
    }

    @Test
    void aCircleOfDimensionsIsRefusedWithItsPath() {
        star.write("dimensions/warden.yaml", """
                dimension: warden
                from: {files: "wardens-{date}.csv"}
                key: warden_no
                attributes: {name: type 2}
                lookups: {hut: {match: home, type: 1}}
                """);
        assertThatThrownBy(() -> star.project())
                .isInstanceOf(DefinitionException.class)
                .hasMessageContaining("hut → warden → hut");
    }

    private void areas(String changes) {
        star.write("dimensions/area.yaml", """
                dimension: area
                from: {files: "areas-{date}.csv", columns: {since: date}}
                key: area_code
                attributes: {size: type 2}
                history: {effective: since}
                lookups: {parent: {dimension: area, match: parent_code, type: %s, hierarchy: true}}
                """.formatted(changes));
    }

    private void areaRows(String date, String rows) {
        star.write("areas-" + date + ".csv", "area_code,parent_code,size,since\n" + rows);
    }

    /** A fact that is summed up by its ancestors is summed up whoever made its member, and when. */
    @Test
    void theBridgeHasReservedMembersAndPlaceholders() {
        areas("1");
        star.write(
                        "dimensions/area.yaml",
                        star.read("dimensions/area.yaml")
                                .replace(
                                        "since: date}",
                                        "since: date, area_code: varchar, size: varchar, parent_code: varchar}"))
                .write("facts/visit.yaml", """
                        fact: visit
                        from: {files: "visits-{date}.csv"}
                        grain: no
                        lookups: {area: {match: area_code, unmatched: placeholder}}
                        measures: {guests: integer}
                        """)
                .write("visits-2026-03-01.csv", "no,area_code,guests\n1,glacier,5\n2,,1\n")
                .load("2026-03-01", "fact_visit");
        String visitors = "select b.ancestor_key, sum(v.guests) from fact_visit as v join bridge_area as b"
                + " on b.descendant_key = v.area_key group by b.ancestor_key order by 1";
        assertThat(star.rows(visitors)).as("before anything was delivered").containsExactly("-2|1", "1|5");
        areaRows("2026-03-02", "valley,region,small,2026-01-01\nregion,,big,2026-01-01\n");
        star.write("visits-2026-03-02.csv", "no,area_code,guests\n3,summit,7\n4,valley,2\n")
                .load("2026-03-02");
        assertThat(star.rows(visitors)).containsExactly("-2|1", "1|5", "2|2", "3|2", "4|7");
        assertThat(unproved()).isEmpty();
        areaRows("2026-03-03", "summit,region,high,2026-01-01\nregion,,bigger,2026-03-03\n");
        star.load("2026-03-03");
        assertThat(star.rows(visitors))
                .as("a key of type 1 follows")
                .containsExactly("-2|1", "1|5", "2|2", "4|7", "5|9");
        assertThat(star.loaded("2026-03-03", "dim_area").counts())
                .as("the same once more")
                .containsEntry("unchanged", 2L);
        assertThat(unproved()).isEmpty();
        star.warehouse().execute("delete from bridge_area");
        star.loaded("2026-03-03", "dim_area");
        assertThat(unproved()).as("a bridge that is empty is made").isEmpty();
        star.warehouse().execute("delete from bridge_area where distance = 1 and descendant_key = 4");
        star.warehouse().execute("insert into bridge_area select 1, 2, 1");
        assertThat(unproved()).containsExactly("bridge_area has every version with its ancestors 2");
    }

    private List<String> unproved() {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(verdict -> verdict.claim() + " " + verdict.offending())
                        .toList();
    }

    @Test
    void aParentMayComeLaterInTheSameDeliveryAndTheBridgeHoldsEveryVersion() {
        areas("2");
        areaRows(
                "2026-03-01",
                "valley,region,small,2026-01-01\nregion,country,big,2026-01-01\ncountry,,huge,2026-01-01\n");
        star.loaded("2026-03-01", "dim_area");
        assertThat(star.rows("select a.area_code, p.area_code, a.parent_key from dim_area a left join dim_area p"
                        + " on p.area_key = a.parent_key and p.area_key > 0 where a.area_key > 0 order by a.area_key"))
                .containsExactly("valley|region|2", "region|country|3", "country|null|-2");
        areaRows("2026-03-02", "valley,country,small,2026-03-02\nregion,country,bigger,2026-03-02\n");
        star.loaded("2026-03-02", "dim_area");
        String bridge = "select d.area_code, d.version, a.area_code, a.version, b.distance from bridge_area as b"
                + " join dim_area as d on d.area_key = b.descendant_key"
                + " join dim_area as a on a.area_key = b.ancestor_key where d.area_key > 0 order by 1, 2, 5";
        assertThat(star.rows(bridge))
                .containsExactly(
                        "country|1|country|1|0",
                        "region|1|region|2|0",
                        "region|1|country|1|1",
                        "region|2|region|2|0",
                        "region|2|country|1|1",
                        "valley|1|valley|2|0",
                        "valley|1|region|2|1",
                        "valley|1|country|1|2",
                        "valley|2|valley|2|0",
                        "valley|2|country|1|1");
        assertThat(
                        star.rows(
                                "select ancestor_key, descendant_key, distance from bridge_area where descendant_key < 0 order by 1"))
                .containsExactly("-2|-2|0", "-1|-1|0");
    }

    @Test
    void aParentThatNeverCameIsUnknownAndASecondLoadChangesNothing() {
        areas("1");
        areaRows("2026-03-01", "valley,nowhere,small,2026-01-01\npeak,valley,tiny,2026-01-02\n");
        star.loaded("2026-03-01", "dim_area");
        String areas = "select area_code, parent_key, updated_by from dim_area where area_key > 0 order by area_key";
        assertThat(star.rows(areas)).containsExactly("valley|-1|1", "peak|1|1");
        TableEntry again = star.loaded("2026-03-01", "dim_area");
        assertThat(again.count("unchanged")).isEqualTo(2);
        assertThat(again.updated()).isZero();
        assertThat(star.rows(areas)).containsExactly("valley|-1|1", "peak|1|1");
    }

    @Test
    void membersThatAreTheirOwnAncestorsStopTheLoadAndAreNamed() {
        areas("1");
        areaRows("2026-03-01", "a,b,x,2026-01-01\nb,c,x,2026-01-01\nc,a,x,2026-01-01\nd,a,x,2026-01-01\n");
        assertThat(star.failure("2026-03-01"))
                .contains("dim_area would have members that are their own ancestors: a, b, c;");
        assertThat(star.warehouse().has("dim_area")).isFalse();
    }
}
