package dev.zeitkammer.past;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.Scenarios;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.Undo;
import dev.zeitkammer.load.Undo.Undone;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Undo, and tables as they were known: random loads, copied after each one, are what they must be equal to. */
class PastTest {

    private static final Map<String, String> TABLES = Map.of(
            "dim_hut", "hut_key",
            "dim_area", "area_key",
            "dim_area_ancestor", "descendant_key, ancestor_key, distance",
            "dim_guest", "guest_key",
            "fact_stay", "no",
            "fact_bed", "code, night_on");

    /** Books whose rows go back with a load; what a text would order is ordered by the engine. */
    private static final Map<String, String> BOOKS = Map.of(
            "marks", "table_name, input",
            "waiting", "table_name, role, grain",
            "waiting_rows", "table_name, input, staged_row",
            "placeholders", "load, table_name");

    @TempDir
    Path folder;

    private static TestStar star(Path folder) {
        return new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "huts-{date}.csv", columns: {since: date, beds: integer, phone: varchar, status: varchar}}
                        key: code
                        attributes: {beds: type 2, phone: type 1, zone: {type: 3, previous: former_zone}}
                        deletions: {when: "status = 'D'"}
                        history: {effective: since}
                        """)
                .write("dimensions/area.yaml", """
                        dimension: area
                        from: {files: "areas-{date}.csv", columns: {parent: varchar}}
                        key: area
                        attributes: {size: type 1}
                        lookups: {parent: {dimension: area, match: parent, type: 1, hierarchy: true}}
                        """)
                .write("dimensions/guest.yaml", """
                        dimension: guest
                        from: {files: "guests-{date}.csv", columns: {guest: varchar}}
                        key: guest
                        attributes: {name: type 2}
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "stays-{date}.csv", columns: {no: integer, night_on: date, status: varchar, guest: varchar, code: varchar}, newer-than: no}
                        grain: no
                        lookups:
                          hut: {match: code, as-of: night_on}
                          guest: {match: guest, unmatched: placeholder}
                        measures: {paid: integer}
                        feeds:
                          - from: {files: "calls-{date}.csv", columns: {no: integer, guest: varchar, paid: integer}}
                            match: no
                            updates: [guest, paid]
                            without-fact: wait
                        """)
                .write("facts/bed.yaml", """
                        fact: bed
                        from: {files: "beds-{date}.csv", columns: {night_on: date, code: varchar, taken: integer}}
                        grain: [code, night_on]
                        lookups: {hut: {match: code, as-of: night_on, unmatched: wait}}
                        measures: {taken: integer}
                        replaces: night_on
                        """);
    }

    private static void deliver(TestStar star, LocalDate date, int day, Random random) {
        List<String> huts = new ArrayList<>();
        for (int row = 0; row < random.nextInt(5); row++) {
            huts.add("H" + random.nextInt(4) + "," + date.minusDays(random.nextInt(6)) + "," + random.nextInt(3) + ","
                    + random.nextInt(3) + "," + "nso".charAt(random.nextInt(3)) + ","
                    + (random.nextInt(6) == 0 ? "D" : ""));
        }
        star.write("huts-" + date + ".csv", "code,since,beds,phone,zone,status\n" + lines(huts));
        star.write(
                "areas-" + date + ".csv",
                "area,size,parent\nA0," + random.nextInt(3) + ",\n"
                        + (random.nextBoolean() ? "A1," + random.nextInt(2) + ",A0\n" : "")
                        + (random.nextInt(3) == 0 ? "A2,1," + (random.nextBoolean() ? "A0" : "A1") + "\n" : ""));
        star.write("guests-" + date + ".csv", "guest,name\n" + random.nextInt(5) + ",N" + random.nextInt(3) + "\n");
        List<String> stays = new ArrayList<>();
        for (int row = 0; row < random.nextInt(5); row++) {
            stays.add((day * 3 + row) + "," + date.minusDays(random.nextInt(9)) + ",H" + random.nextInt(5) + ","
                    + random.nextInt(7) + "," + random.nextInt(100) + ",");
        }
        star.write("stays-" + date + ".csv", "no,night_on,code,guest,paid,status\n" + lines(stays));
        List<String> beds = new ArrayList<>();
        for (int hut = 0; hut < 5; hut++) {
            if (random.nextBoolean()) {
                beds.add("H" + hut + "," + date.minusDays(random.nextInt(2)) + "," + random.nextInt(9));
            }
        }
        star.write("beds-" + date + ".csv", "code,night_on,taken\n" + lines(beds));
        List<String> calls = new ArrayList<>();
        for (int row = 0; row < random.nextInt(4); row++) {
            calls.add(random.nextInt(day * 3 + 9) + "," + random.nextInt(9) + "," + random.nextInt(100));
        }
        star.write("calls-" + date + ".csv", "no,guest,paid\n" + lines(calls));
    }

    private static String lines(List<String> rows) {
        return rows.stream().map(row -> row + "\n").collect(Collectors.joining());
    }

    private static Map<String, List<String>> tables(TestStar star, boolean withStamps) {
        Map<String, List<String>> rows = new TreeMap<>();
        TABLES.forEach((table, order) -> rows.put(
                table,
                star.warehouse().has(table)
                        ? star.rows(
                                "select " + columns(star, table, withStamps) + " from " + table + " order by " + order)
                        : List.of()));
        return rows;
    }

    private static String columns(TestStar star, String table, boolean withStamps) {
        return star.warehouse().columns(table).stream()
                .map(column -> column.name())
                .filter(name -> withStamps || !name.matches("(inserted|updated)_(at|by)|\\w+_key"))
                .collect(Collectors.joining(", "));
    }

    private static Map<String, List<String>> books(TestStar star) {
        Map<String, List<String>> rows = new TreeMap<>();
        BOOKS.forEach((book, order) ->
                rows.put(book, star.rows("select * from " + star.warehouse().book(book) + " order by " + order)));
        return rows;
    }

    private static void loaded(TestStar star, LocalDate date) {
        LoadEntry load = star.load(date.toString());
        assertThat(load.tables())
                .allSatisfy(table -> assertThat(table.error().orElse("")).matches("|no delivery.*"));
    }

    private void scenario(long seed) {
        Random random = new Random(seed);
        LocalDate first = LocalDate.parse("2026-03-01");
        int days = 6;
        try (TestStar star = star(folder.resolve("s" + seed))) {
            Map<Long, Map<String, List<String>>> after = new LinkedHashMap<>();
            Map<Long, Map<String, List<String>>> booksAfter = new LinkedHashMap<>();
            for (int day = 0; day < days; day++) {
                deliver(star, first.plusDays(day), day, random);
                loaded(star, first.plusDays(day));
                after.put(day + 1L, tables(star, true));
                booksAfter.put(day + 1L, books(star));
            }
            assertKnown(star, after);
            Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
            long back = 2 + random.nextInt(days - 1);
            List<Undone> shown = undo.show(Optional.of(back));
            assertThat(tables(star, true)).as("showing changes nothing").isEqualTo(after.get((long) days));
            assertThat(undo.undo(Optional.of(back))).isEqualTo(shown);
            assertThat(tables(star, true))
                    .as("tables after an undo back to load " + back)
                    .isEqualTo(after.get(back - 1));
            assertThat(books(star))
                    .as("books after an undo back to load " + back)
                    .isEqualTo(booksAfter.get(back - 1));
            assertHolds(star);
            for (int day = (int) back - 1; day < days; day++) {
                loaded(star, first.plusDays(day));
            }
            assertThat(tables(star, false)).as("loaded again").isEqualTo(plain(star, first, days));
            assertHolds(star);
        }
    }

    /** What would stand without an undo, but for stamps and keys. */
    private Map<String, List<String>> plain(TestStar loaded, LocalDate first, int days) {
        try (TestStar star = star(folder.resolve("plain-" + System.nanoTime()))) {
            for (int day = 0; day < days; day++) {
                LocalDate date = first.plusDays(day);
                for (String file : List.of("huts", "areas", "guests", "stays", "beds", "calls")) {
                    String name = file + "-" + date + ".csv";
                    star.write(name, read(loaded, name));
                }
                loaded(star, date);
            }
            return tables(star, false);
        }
    }

    private static String read(TestStar star, String file) {
        return star.read(file);
    }

    private static void assertKnown(TestStar star, Map<Long, Map<String, List<String>>> after) {
        for (Map.Entry<Long, Map<String, List<String>>> then : after.entrySet()) {
            for (String name : List.of("hut", "area", "guest", "stay", "bed")) {
                String table = star.project().definition(name).table();
                String sql = new KnownTable(star.warehouse(), star.project().definition(name)).after(then.getKey());
                assertThat(star.rows("select * from (" + sql + ") as known order by " + TABLES.get(table)))
                        .as(table + " as known after load " + then.getKey())
                        .isEqualTo(then.getValue().get(table));
            }
        }
    }

    private static void assertHolds(TestStar star) {
        assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                .filteredOn(verdict -> !verdict.holds())
                .as("proofs that fail")
                .extracting(Verdict::claim)
                .isEmpty();
    }

    @Tag("slow")
    @Test
    void tablesAreKnownAsTheyWereAndGoBackToIt() {
        Scenarios.run(Scenarios.UNDOS.seeds(1), this::scenario);
    }

    @Test
    void whatStandsOnALoadKeepsItFromBeingTakenBack() {
        try (TestStar star = star(folder.resolve("refused"))) {
            Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
            assertThatThrownBy(() -> undo.undo(Optional.empty())).hasMessageContaining("There is no load to take back");
            star.write("guests-2026-03-01.csv", "guest,name\n1,Resi\n");
            star.load("2026-03-01", "guest");
            star.write("stays-2026-03-02.csv", "no,night_on,code,guest,paid,status\n1,2026-03-01,H1,1,5,\n");
            star.write("huts-2026-03-02.csv", "code,since,beds,phone,zone,status\nH1,2026-01-01,1,1,n,\n");
            star.load("2026-03-02", "hut", "stay");
            assertThatThrownBy(() -> undo.undo(Optional.of(7L))).hasMessageContaining("There is no load 7");
            star.write("guests-2026-03-03.csv", "guest,name\n2,Toni\n");
            star.load("2026-03-03", "guest");
            star.warehouse().execute("update fact_stay set guest_key = 2");
            List<String> before = star.rows("select * from dim_guest order by guest_key");
            assertThatThrownBy(() -> undo.undo(Optional.empty()))
                    .isInstanceOf(GuardException.class)
                    .hasMessageContaining("1 row of fact_stay points at members of dim_guest");
            assertThat(star.rows("select * from dim_guest order by guest_key")).isEqualTo(before);
        }
    }

    @Test
    void loadsOfWhichNoImagesAreKeptAreNotGuessed() {
        try (TestStar star = star(folder.resolve("none"))) {
            star.write(
                    "zeitkammer.yaml", "project: test\nwarehouses: {memory: {url: \"jdbc:duckdb:\"}}\nimages: none\n");
            star.write("guests-2026-03-01.csv", "guest,name\n1,Resi\n");
            star.write("guests-2026-03-02.csv", "guest,name\n1,Theresia\n");
            star.load("2026-03-01", "guest");
            Undo first = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
            assertThatThrownBy(() -> first.undo(Optional.empty()))
                    .as("rows that were only inserted could go, but marks would stay")
                    .isInstanceOf(GuardException.class);
            star.load("2026-03-02", "guest");
            Undo undo = new Undo(star.project(), star.warehouse(), Clock.systemUTC());
            assertThatThrownBy(() -> undo.undo(Optional.empty()))
                    .hasMessageContaining("rows of dim_guest as they were before are kept of none of its loads");
            assertThatThrownBy(() ->
                            new KnownTable(star.warehouse(), star.project().definition("guest")).after(1))
                    .hasMessageContaining("Cannot tell what dim_guest said after load 1");
        }
    }

    /** Images of a load say what stood before it: what was known after the load before the first of them is known too, and no more. */
    @Test
    void theLoadBeforeTheFirstImagesIsKnown() {
        try (TestStar star = star(folder.resolve("begun"))) {
            String with = star.read("zeitkammer.yaml");
            star.write("zeitkammer.yaml", with + "images: none\n");
            for (int day = 1; day <= 3; day++) {
                star.write("guests-2026-03-0" + day + ".csv", "guest,name\n1,Resi " + day + "\n");
            }
            star.load("2026-03-01", "guest");
            star.load("2026-03-02", "guest");
            star.write("zeitkammer.yaml", with);
            star.load("2026-03-03", "guest");
            KnownTable known = new KnownTable(star.warehouse(), star.project().definition("guest"));
            assertThat(star.rows("select name from (" + known.after(2) + ") as k where guest = '1' and is_current"))
                    .containsExactly("Resi 2");
            assertThatThrownBy(() -> known.after(1)).hasMessageContaining("since load 3 only");
        }
    }

    @Test
    void tablesOfAnyNameWithColumnsOfOthersAreKept() {
        try (TestStar star = star(folder.resolve("odd"))) {
            star.write("dimensions/guest.yaml", """
                    dimension: guest
                    table: "Gäste-Buch 1"
                    from: {files: "guests-{date}.csv", columns: {guest: varchar}}
                    key: guest
                    attributes: {name: type 1}
                    """);
            star.write("guests-2026-03-01.csv", "guest,name\n1,Resi\n");
            star.write("guests-2026-03-02.csv", "guest,name\n1,Theresia\n");
            star.load("2026-03-01", "guest");
            star.warehouse().execute("alter table " + star.warehouse().table("Gäste-Buch 1") + " add column own uuid");
            String rows =
                    "select guest, name from " + star.warehouse().table("Gäste-Buch 1") + " where guest is not null";
            assertThat(star.load("2026-03-02", "guest").status()).isEqualTo(LoadStatus.DONE);
            assertThat(star.rows(rows)).containsExactly("1|Theresia");
            new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty());
            assertThat(star.rows(rows)).containsExactly("1|Resi");
        }
    }

    @Test
    void aFutureDateThatWasLoadedIsTakenBack() {
        try (TestStar star = star(folder.resolve("future"))) {
            star.write("guests-2026-03-01.csv", "guest,name\n1,Resi\n");
            star.write("guests-2026-03-02.csv", "guest,name\n1,Theresia\n");
            star.load("2026-03-02", "guest");
            assertThat(star.load("2026-03-01", "guest").status()).isEqualTo(LoadStatus.STOPPED);
            new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty());
            assertThat(star.load("2026-03-01", "guest").status()).isEqualTo(LoadStatus.DONE);
            assertThat(star.rows("select name from dim_guest where guest_key > 0"))
                    .containsExactly("Resi");
        }
    }

    /** One fact waits for hut B since the first load; the second brings it, and a fact that waits for hut C. */
    private TestStar waiting(String name, String images) {
        TestStar star = star(folder.resolve(name))
                .write(
                        "zeitkammer.yaml",
                        "project: test\nwarehouses: {memory: {url: \"jdbc:duckdb:\"}}\nimages: " + images + "\n")
                .write("huts-2026-03-01.csv", "code,since,beds,phone,zone,status\nA,2026-03-01,1,1,n,\n")
                .write("huts-2026-03-02.csv", "code,since,beds,phone,zone,status\nB,2026-03-01,1,1,n,\n")
                .write("huts-2026-03-03.csv", "code,since,beds,phone,zone,status\nC,2026-03-01,1,1,n,\n")
                .write("guests-2026-03-01.csv", "guest,name\n1,Resi\n")
                .write("stays-2026-03-01.csv", "no,night_on,code,guest,paid,status\n1,2026-03-01,B,1,5,\n")
                .write("stays-2026-03-02.csv", "no,night_on,code,guest,paid,status\n2,2026-03-01,C,1,5,\n");
        star.load("2026-03-01", "hut", "guest", "stay");
        return star;
    }

    private static List<String> stillWaiting(TestStar star) {
        return star.rows("select key_1, noted_by from " + star.warehouse().book("waiting") + " order by 1");
    }

    private static void undone(TestStar star) {
        new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty());
    }

    @Test
    void whatWaitedGoesOnWaitingAfterAnUndo() {
        try (TestStar star = waiting("waiting", "1 load")) {
            assertThat(stillWaiting(star)).containsExactly("B|1");
            star.load("2026-03-02", "hut", "stay");
            assertThat(stillWaiting(star)).containsExactly("C|2");
            undone(star);
            assertThat(stillWaiting(star)).containsExactly("B|1");
            star.load("2026-03-02", "hut", "stay");
            star.load("2026-03-03", "hut", "stay");
            assertThat(stillWaiting(star)).isEmpty();
            assertThat(star.rows("select load, key_1 from " + star.warehouse().book("waited")))
                    .as("what was kept for loads whose images are gone is gone too")
                    .containsExactly("4|C");
        }
    }

    /** Before, all that waited was kept for each load, and not which load had noted it. */
    @Test
    void booksOfAnEarlierVersionAreTakenOver() {
        try (TestStar star = waiting("earlier", "all")) {
            Warehouse warehouse = star.warehouse();
            warehouse.execute("alter table " + warehouse.book("waiting") + " drop column noted_by");
            warehouse.execute("drop table " + warehouse.book("waited"));
            warehouse.execute("insert into " + warehouse.book("before_books")
                    + " (load, table_name, book, is_row, value_1, value_2, value_3, value_5)"
                    + " values (1, 'fact_stay', 'waiting', false, null, null, null, null),"
                    + " (1, 'fact_stay', 'waiting', true, 'fact_stay', 'hut', '0', 'Z')");
            star.load("2026-03-02", "hut", "stay");
            assertThat(stillWaiting(star)).containsExactly("C|2");
            undone(star);
            assertThat(stillWaiting(star)).containsExactly("B|null");
            undone(star);
            assertThat(stillWaiting(star)).containsExactly("Z|null");
        }
    }
}
