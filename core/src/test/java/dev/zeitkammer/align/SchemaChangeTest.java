package dev.zeitkammer.align;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Random;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Definitions that change after tables have been loaded. */
@Tag("slow")
class SchemaChangeTest {

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void project() {
        star = new TestStar(folder);
        define("{name: type 1, beds: type 2}");
        deliver("2026-03-01", "A,Alpha,10,south", "B,Beta,20,north");
        star.loaded("2026-03-01", "dim_hut");
        deliver("2026-03-02", "A,Alpha,12,south");
        star.loaded("2026-03-02", "dim_hut");
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void define(String attributes) {
        define(attributes, "");
    }

    private void define(String attributes, String more) {
        star.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: \"huts-{date}.csv\"}\nkey: code\nattributes: " + attributes + "\n"
                        + more);
    }

    private void deliver(String date, String... rows) {
        star.write("huts-" + date + ".csv", "code,name,beds,region\n" + String.join("\n", rows) + "\n");
    }

    private String[] rows(String columns) {
        return star.rows("select " + columns + " from dim_hut where hut_key > 0 order by code, hut_key")
                .toArray(String[]::new);
    }

    @Test
    void aNewAttributeIsFilledOnCurrentVersionsWithoutOpeningAny() {
        define("{name: type 1, beds: type 2, region: type 2}");
        deliver("2026-03-03", "A,Alpha,12,south");
        TableEntry filled = star.loaded("2026-03-03", "dim_hut");
        assertThat(filled.counts()).containsEntry("corrected", 1L).containsEntry("versioned", 0L);
        assertThat(filled.updated()).isEqualTo(1);
        assertThat(rows("code, beds, region, version, updated_by"))
                .containsExactly("A|10|null|1|2", "A|12|south|2|3", "B|20|null|1|1");
        deliver("2026-03-04", "A,Alpha,12,east", "B,Beta,20,north", "C,Gamma,5,west");
        assertThat(star.loaded("2026-03-04", "dim_hut").counts())
                .containsEntry("versioned", 1L)
                .containsEntry("corrected", 1L)
                .containsEntry("new", 1L);
        assertThat(rows("code, region, version"))
                .containsExactly("A|null|1", "A|south|2", "A|east|3", "B|north|1", "C|west|1");
        deliver("2026-03-05", "C,Gamma,5,", "A,Alpha,12,east");
        star.loaded("2026-03-05", "dim_hut");
        deliver("2026-03-06", "C,Gamma,5,west", "A,Alpha,12,east");
        assertThat(star.loaded("2026-03-06", "dim_hut").count("versioned")).isEqualTo(1);
    }

    @Test
    void aMemberThatCameWithoutAValueInTheLoadThatAddedItsColumnWasToldSo() {
        define("{name: type 1, beds: type 2, region: type 2}");
        deliver("2026-03-03", "A,Alpha,12,", "C,Gamma,5,");
        star.loaded("2026-03-03", "dim_hut");
        deliver("2026-03-04", "A,Alpha,12,south", "C,Gamma,5,west");
        assertThat(star.loaded("2026-03-04", "dim_hut").counts())
                .containsEntry("corrected", 1L)
                .containsEntry("versioned", 1L);
        assertThat(rows("code, region, version"))
                .containsExactly("A|null|1", "A|south|2", "B|null|1", "C|null|1", "C|west|2");
    }

    @Test
    void aRenamedAttributeKeepsItsValues() {
        define("{title: {type: 1, was: name, take: name}, beds: type 2}");
        deliver("2026-03-03", "A,Alpha,12,south");
        assertThat(star.loaded("2026-03-03", "dim_hut").count("unchanged")).isEqualTo(1);
        assertThat(rows("code, title")).containsExactly("A|Alpha", "A|Alpha", "B|Beta");
        assertThat(star.warehouse().columns("dim_hut"))
                .extracting(column -> column.name())
                .doesNotContain("name");
    }

    @Test
    void anAttributeThatIsDroppedStaysAndATypeWidens() {
        define("{beds: {type: 2, as: \"decimal(22,2)\"}}");
        deliver("2026-03-03", "A,Alpha,12.5,south");
        assertThat(star.loaded("2026-03-03", "dim_hut").count("versioned")).isEqualTo(1);
        assertThat(rows("code, name, beds"))
                .containsExactly("A|Alpha|10.00", "A|Alpha|12.00", "A|null|12.50", "B|Beta|20.00");
    }

    @Test
    void aChangeThatWouldLoseDataIsRefusedWithTheSqlThatWouldDoIt() {
        define("{name: {type: 1, as: integer, take: \"1\"}, beds: type 2}");
        deliver("2026-03-03", "A,Alpha,12,south");
        assertThat(star.failure("2026-03-03"))
                .contains("name of dim_hut is varchar", "alter table", "alter column \"name\" type integer");
    }

    @Test
    void fromType1ToType2AndBack() {
        define("{name: type 2, beds: type 1}");
        deliver("2026-03-03", "A,Alm,13,south");
        assertThat(star.loaded("2026-03-03", "dim_hut").count("versioned")).isEqualTo(1);
        assertThat(rows("code, name, beds, version"))
                .containsExactly("A|Alpha|13|1", "A|Alpha|13|2", "A|Alm|13|3", "B|Beta|20|1");
    }

    @Test
    void theLastAttributeOfType2GoesAndTheVersionsStay() {
        define("{name: type 1, beds: type 1}");
        deliver("2026-03-03", "A,Alm,13,south", "C,Gamma,5,west");
        assertThat(star.loaded("2026-03-03", "dim_hut").counts())
                .containsEntry("overwritten", 1L)
                .containsEntry("new", 1L);
        assertThat(rows("code, name, beds, version, is_current"))
                .containsExactly("A|Alm|13|1|false", "A|Alm|13|2|true", "B|Beta|20|1|true", "C|Gamma|5|1|true");
    }

    @Test
    void theFirstAttributeOfType2MakesWhatStandsAlwaysValid() {
        star.write(
                "dimensions/area.yaml",
                "dimension: area\nfrom: {files: \"huts-{date}.csv\"}\nkey: code\nattributes: {region: type 1}\n");
        deliver("2026-03-03", "A,Alpha,12,south");
        star.loaded("2026-03-03", "dim_area");
        star.write(
                "dimensions/area.yaml",
                "dimension: area\nfrom: {files: \"huts-{date}.csv\"}\nkey: code\nattributes: {region: type 2}\n");
        deliver("2026-03-04", "A,Alpha,12,east");
        assertThat(star.loaded("2026-03-04", "dim_area").count("versioned")).isEqualTo(1);
        assertThat(
                        star.rows(
                                "select area_key, code, region, valid_from, valid_to, is_current, version from dim_area order by 1"))
                .containsExactly(
                        "-2|null|Not applicable|0001-01-01|9999-12-31|true|1",
                        "-1|null|Unknown|0001-01-01|9999-12-31|true|1",
                        "1|A|south|0001-01-01|2026-03-04|false|1",
                        "2|A|east|2026-03-04|9999-12-31|true|2");
    }

    @Test
    void viewsAndCommentsFollowTheDefinition() {
        define(
                "{name: {type: 1, about: \"What guests call it\"}, beds: type 2}",
                "about: Where guests sleep\ncurrent-view: hut_now\nrole-views: {booked: dim_booked_hut}\n");
        deliver("2026-03-03", "A,Alpha,12,south");
        star.loaded("2026-03-03", "dim_hut");
        assertThat(star.warehouse().comments("dim_hut"))
                .containsEntry("", "Where guests sleep")
                .containsEntry("name", "What guests call it");
        assertThat(star.rows("select code, beds from hut_now where hut_key > 0 order by code"))
                .containsExactly("A|12", "B|20");
        assertThat(star.rows("select booked_key, booked_code, booked_version from dim_booked_hut where booked_key = 2"))
                .containsExactly("2|B|1");
        define("{name: type 1, beds: type 2, region: type 1}", "current-view: hut_now\n");
        star.loaded("2026-03-03", "dim_hut");
        assertThat(star.rows("select region from hut_now where code = 'A'")).containsExactly("south");
    }

    @Test
    void whatTheProgramDidNotMakeIsNotReplaced() {
        star.warehouse().execute("create view huts_now as select code, beds from dim_hut");
        define("{name: type 1, beds: type 2}", "current-view: huts_now\n");
        deliver("2026-03-03", "A,Alpha,14,south");
        assertThat(star.failure("2026-03-03")).contains("huts_now", "does not keep", "choose another name");
        assertThat(star.rows("select * from huts_now where code = 'B'")).containsExactly("B|20");
        define("{name: type 1, beds: type 2}", "current-view: huts_current\n");
        star.loaded("2026-03-03", "dim_hut");
        define("{name: type 1, beds: type 2, region: type 1}", "current-view: huts_current\n");
        deliver("2026-03-04", "A,Alpha,14,south");
        star.loaded("2026-03-04", "dim_hut");
        assertThat(star.rows("select region from huts_current where code = 'A'"))
                .containsExactly("south");
        star.warehouse().execute("create schema staging");
        star.warehouse().execute("create table staging.hut as select 'mine' as whose");
        star.write(
                "dimensions/hut.yaml",
                "dimension: hut\nfrom: {files: \"huts-{date}.csv\", retain: true}\nkey: code\nattributes: {name: type 1, beds: type 2, region: type 1}\n");
        deliver("2026-03-05", "A,Alpha,14,east");
        assertThat(star.failure("2026-03-05")).contains("staging.hut", "does not keep");
        assertThat(star.rows("select whose from staging.hut")).containsExactly("mine");
        star.warehouse().execute("drop table staging.hut");
        star.loaded("2026-03-05", "dim_hut");
        deliver("2026-03-06", "A,Alpha,14,west");
        star.loaded("2026-03-06", "dim_hut");
        assertThat(star.rows("select region from staging.hut")).containsExactly("west");
    }

    /** A server cuts longer names, so that the next load would not find its table again. */
    @Test
    void namesAreNotCutAndTablesNotTooWide() {
        if (!TestWarehouses.onServer()) {
            return;
        }
        String name = "ü".repeat(32);
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv"}
                key: code
                attributes: {%s: {type: 1, take: name}}
                """.formatted(name));
        assertThat(star.failure("2026-03-02")).contains(name, "64 bytes", "63 at most");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                table: dim_wide
                from: {files: "wide.csv"}
                key: code
                all-others: type 1
                """)
                .write(
                        "wide.csv",
                        "code,"
                                + String.join(
                                        ",",
                                        IntStream.range(0, 1_600)
                                                .mapToObj(number -> "c" + number)
                                                .toList()) + "\n");
        assertThat(star.failure("2026-03-02")).contains("1600");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                table: dim_long
                from: {files: "long.csv"}
                key: code
                attributes: {}
                """);
        StringBuilder key = new StringBuilder();
        Random random = new Random(1);
        for (int letter = 0; letter < 10_000; letter++) {
            key.append((char) ('!' + random.nextInt(90)));
        }
        star.write("long.csv", "code\n\"" + key.toString().replace("\"", "\"\"") + "\"\n");
        assertThat(star.failure("2026-03-02"))
                .contains("a key is longer than the server's index can hold", "length(code)");
    }

    @Test
    void aViewMayNotTakeTheNameOfATable() {
        star.warehouse().execute("create table hut_now (a integer)");
        define("{name: type 1, beds: type 2}", "current-view: hut_now\n");
        deliver("2026-03-03", "A,Alpha,12,south");
        assertThat(star.failure("2026-03-03")).contains("The view hut_now of dim_hut cannot be made");
    }

    @Test
    void checkTellsOfStagedColumnsThatNobodyUses() {
        assertThat(new Checker(star.project(), star.warehouse(), Clock.systemUTC())
                        .check()
                        .findings())
                .extracting(finding -> finding.text())
                .anyMatch(text -> text.contains("staged and not used: region"));
    }
}
