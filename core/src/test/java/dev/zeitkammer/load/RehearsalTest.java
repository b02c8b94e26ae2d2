package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
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
    void keysThatFollowANewerVersionAreTold() {
        star.write(
                "dimensions/warden.yaml",
                "dimension: warden\nfrom: {files: \"wardens-{date}.csv\"}\nkey: no\nattributes: {name: type 2}\n");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv"}
                key: code
                attributes: {region: type 1}
                lookups: {warden: {match: no, type: 1}}
                """);
        star.load("2026-03-02", "warden", "hut");
        star.write("wardens-2026-03-03.csv", "no,name\n1,Therese\n");
        star.load("2026-03-03", "warden");
        assertThat(rehearsed("2026-03-04")).containsExactly("warden_key of A: 1 → 3, followed");
        star.write("wardens-2026-03-04.csv", "no,name\n2,Anton\n");
        assertThat(rehearsed("2026-03-04"))
                .containsExactly(
                        "name of 2: Toni → Anton, new version",
                        "warden_key of A: 1 → 3, followed",
                        "warden_key of B: 2 → 4, followed");
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

    /** Where all is staged within one transaction, rows have other places than rows that were committed. */
    @Test
    void whoIsAbsentAndWhatASnapshotReplacesIsToldAsALoadDoesIt() {
        star.write("dimensions/guest.yaml", """
                        dimension: guest
                        from: {files: "guests-{date}.csv", extract: full}
                        key: no
                        attributes: {name: type 1}
                        deletions: {absent: close}
                        """)
                .write("facts/bed.yaml", """
                        fact: bed
                        from: {files: "beds-{date}.csv", columns: {night_on: date}}
                        grain: [code, night_on]
                        measures: {taken: integer}
                        replaces: night_on
                        """)
                .write("guests-2026-03-01.csv", "no,name\n1,Ada\n2,Bo\n3,Cy\n4,Di\n5,Ed\n6,Flo\n")
                .write("guests-2026-03-02.csv", "no,name\n1,Ada\n2,Bo\n3,Cy\n4,Di\n5,Ed\n")
                .write("beds-2026-03-01.csv", "code,night_on,taken\nA,2026-03-01,3\nB,2026-03-01,4\n")
                .write("beds-2026-03-02.csv", "code,night_on,taken\nA,2026-03-01,3\n");
        star.load("2026-03-01");
        List<TableEntry> told = new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC())
                .rehearse(LoadDate.parse("2026-03-02"), List.of())
                .load()
                .tables();
        List<TableEntry> loaded = star.load("2026-03-02").tables();
        assertThat(told)
                .extracting(TableEntry::counts)
                .isEqualTo(loaded.stream().map(TableEntry::counts).toList());
        assertThat(told.stream().mapToLong(entry -> entry.count("absent")).sum())
                .isEqualTo(1);
        assertThat(told.stream().mapToLong(entry -> entry.count("removed")).sum())
                .isEqualTo(1);
    }

    @Test
    void whatFeedsChangeAndWhichFactsMoveIsTold() {
        star.write("dimensions/tour.yaml", """
                        dimension: tour
                        from: {files: "tours-{date}.csv", columns: {since: date}}
                        key: no
                        attributes: {grade: type 2}
                        history: {effective: since}
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv", columns: {no: integer, night_on: date, tour_no: varchar, warden_no: varchar}}
                        grain: no
                        degenerate: night_on
                        lookups: {tour: {match: tour_no, as-of: night_on}, warden: {match: warden_no}}
                        measures: {paid: integer}
                        feeds: [{from: {files: "paid-{date}.csv", columns: {no: integer}}, match: no, updates: paid}]
                        """)
                .write("tours-2026-03-01.csv", "no,since,grade\nT,2026-01-01,easy\n")
                .write(
                        "stays-2026-03-01.csv",
                        "no,night_on,tour_no,warden_no,paid\n1,2026-03-01,T,1,5\n2,2026-02-01,T,9,6\n3,2026-02-10,T,2,7\n");
        star.load("2026-03-01");
        star.write("wardens-2026-03-02.csv", "no,name\n9,Vreni\n")
                .write("tours-2026-03-02.csv", "no,since,grade\nT,2026-02-05,hard\nT,2026-02-20,easy\n")
                .write("stays-2026-03-02.csv", "no,night_on,tour_no,warden_no,paid\n1,2026-03-01,T,2,8\n")
                .write("paid-2026-03-02.csv", "no,paid\n1,9\n2,6\n");
        assertThat(rehearsed("2026-03-02"))
                .contains(
                        "paid of 1: 5 → 9, in place",
                        "warden_key of 1: 1 → 2, in place",
                        "warden_key of 2: -1 → 3, healed",
                        "tour_key of 3: 1 → 2, followed")
                .doesNotContain("paid of 2: 6 → 6, in place")
                .doesNotHaveDuplicates();
        assertThat(star.rows("select no, paid, warden_key, tour_key from fact_stay order by no"))
                .containsExactly("1|5|1|1", "2|6|-1|1", "3|7|2|1");
        star.load("2026-03-02");
        assertThat(star.rows("select no, paid, warden_key from fact_stay order by no"))
                .containsExactly("1|9|2", "2|6|3", "3|7|2");
    }

    @Test
    void rowsThatComeAndEndAreNamed() {
        star.write("dimensions/lodge.yaml", """
                dimension: lodge
                from: {files: "lodges-{date}.csv", columns: {since: date}}
                key: code
                attributes: {beds: {type: 2, as: integer}}
                history: {effective: since}
                deletions: {when: "beds = 0"}
                """)
                .write("facts/night.yaml", """
                fact: night
                from: {files: "nights-{date}.csv"}
                grain: [no, bed]
                lookups: {lodge: {match: code}}
                measures: {guests: integer}
                deletions: {when: "guests = 0", rows: remove}
                """)
                .write("lodges-2026-04-01.csv", "code,beds,since\nA,1,2026-04-01\nB,2,2026-04-01\nC,3,2026-04-01\n");
        star.write("nights-2026-04-01.csv", "no,bed,code,guests\n1,1,A,2\n1,2,A,2\n");
        assertThat(coming("2026-04-01"))
                .containsExactly(
                        "dim_lodge + A 2026-04-01",
                        "dim_lodge + B 2026-04-01",
                        "dim_lodge + C 2026-04-01",
                        "fact_night + 1, 1 ",
                        "fact_night + 1, 2 ");
        star.load("2026-04-01");
        star.write(
                "lodges-2026-04-02.csv",
                "code,beds,since\nA,5,2026-04-02\nB,0,2026-04-02\nD,4,2026-04-02\nC,9,2026-03-15\nC,0,2026-04-20\n");
        star.write("nights-2026-04-02.csv", "no,bed,code,guests\n1,1,A,0\n2,1,D,2\n");
        assertThat(coming("2026-04-02"))
                .containsExactlyInAnyOrder(
                        "dim_lodge + A 2026-04-02",
                        "dim_lodge - B 2026-04-01",
                        "dim_lodge + D 2026-04-02",
                        "dim_lodge + C 2026-03-15",
                        "dim_lodge - C 2026-04-01",
                        "fact_night - 1, 1 ",
                        "fact_night + 2, 1 ");
        assertThat(star.rows("select count(*) from fact_night")).containsExactly("2");
    }

    private List<String> coming(String date) {
        return new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC())
                .rehearse(LoadDate.parse(date), List.of("lodge", "night")).coming().stream()
                        .map(row -> row.table() + (row.comes() ? " + " : " - ") + row.key() + " " + row.from())
                        .toList();
    }
}
