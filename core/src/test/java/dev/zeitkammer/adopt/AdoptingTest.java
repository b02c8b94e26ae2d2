package dev.zeitkammer.adopt;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import dev.zeitkammer.profile.Drafting;
import dev.zeitkammer.profile.Drafting.Kind;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Tables that others made: a definition is drafted of each, and loads go on with it without touching what stands. */
class AdoptingTest {

    @TempDir
    Path folder;

    /**
     * Dimensions of huts as others keep them. Adlerhorst has two versions, Bergli one, Tschuggen was given up.
     *
     * @see #goesOnWithVersions
     */
    enum Made {
        /** Open versions have no end, a flag says Y or N, keys are integers. */
        NULL_END("""
                create table dim_hut (hut_sk integer, hut_code varchar(10), hut_name varchar(40), beds integer,
                  valid_from date, valid_to date, active varchar(1));
                insert into dim_hut values
                  (1, 'ADL', 'Adlerhorst', 30, date '2020-01-01', date '2024-01-01', 'N'),
                  (2, 'ADL', 'Adlerhorst', 34, date '2024-01-01', null, 'Y'),
                  (3, 'BER', 'Bergli', 12, date '2020-01-01', null, 'Y')""", "hut_sk", "valid_to is null"),
        /** The last day of a version is its end; 9999-12-31 is open; the flag is 1 or 0; the member -1 is there. */
        INCLUSIVE("""
                create table dim_hut (hut_key bigint not null, code varchar(10), name varchar(40), beds integer,
                  start_date date, end_date date, is_current integer, primary key (hut_key));
                insert into dim_hut values
                  (-1, null, 'unknown hut', null, date '1900-01-01', date '9999-12-31', 1),
                  (11, 'ADL', 'Adlerhorst', 30, date '2020-01-01', date '2023-12-31', 0),
                  (12, 'ADL', 'Adlerhorst', 34, date '2024-01-01', date '9999-12-31', 1),
                  (13, 'BER', 'Bergli', 12, date '2020-01-01', date '9999-12-31', 1)""", "hut_key", "end_date = date '9999-12-31'"),
        /** 2079-06-06 is open, the flag is a boolean, versions are numbered, and rows know when they were made. */
        HIGH_DATE("""
                create table dim_hut (hut_id smallint, hut_code varchar(10), hut_name varchar(40), beds integer,
                  eff_from date, eff_until date, latest boolean, version integer, created_at timestamp, modified_at timestamp);
                insert into dim_hut values
                  (5, 'ADL', 'Adlerhorst', 30, date '2020-01-01', date '2024-01-01', false, 1, timestamp '2020-01-01 05:00:00', timestamp '2024-01-01 05:00:00'),
                  (6, 'ADL', 'Adlerhorst', 34, date '2024-01-01', date '2079-06-06', true, 2, timestamp '2024-01-01 05:00:00', timestamp '2024-01-01 05:00:00'),
                  (7, 'BER', 'Bergli', 12, date '2020-01-01', date '2079-06-06', true, 1, timestamp '2020-01-01 05:00:00', timestamp '2020-01-01 05:00:00')""", "hut_id", "eff_until = date '2079-06-06'"),
        /** No flag and no number; a member that was given up ended for good. */
        BARE("""
                create table dim_hut (sk integer, hut_code varchar(10), hut_name varchar(40), beds integer, von date, bis date);
                insert into dim_hut values
                  (21, 'ADL', 'Adlerhorst', 30, date '2020-01-01', date '2023-12-31'),
                  (22, 'ADL', 'Adlerhorst', 34, date '2024-01-01', null),
                  (23, 'BER', 'Bergli', 12, date '2020-01-01', null),
                  (24, 'TSC', 'Tschuggen', 8, date '2020-01-01', date '2021-06-30')""", "sk", "bis is null"),
        /** Days are timestamps at midnight, and a column stands that no delivery brings. */
        TIMESTAMPS("""
                create table dim_hut (hut_key bigint, hut_code varchar(10), hut_name varchar(40), beds integer, remark varchar(40),
                  valid_from timestamp, valid_to timestamp, current_flag varchar(5));
                insert into dim_hut values
                  (31, 'ADL', 'Adlerhorst', 30, 'old roof', timestamp '2020-01-01 00:00:00', timestamp '2024-01-01 00:00:00', 'false'),
                  (32, 'ADL', 'Adlerhorst', 34, 'new roof', timestamp '2024-01-01 00:00:00', timestamp '9999-12-31 00:00:00', 'true'),
                  (33, 'BER', 'Bergli', 12, null, timestamp '2020-01-01 00:00:00', timestamp '9999-12-31 00:00:00', 'true')""", "hut_key", "valid_to > timestamp '9000-01-01 00:00:00'");

        private final String script;
        private final String key;
        private final String isOpen;

        Made(String script, String key, String isOpen) {
            this.script = script;
            this.key = key;
            this.isOpen = isOpen;
        }
    }

    private TestStar star(String script) {
        TestStar star = new TestStar(folder);
        String made = TestWarehouses.onCluster()
                ? script.replace(", primary key (hut_key)", "").replace("stay_id bigint , ", "")
                : script;
        for (String statement : made.split(";\n")) {
            star.warehouse().execute(statement);
        }
        return star;
    }

    private static void deliver(TestStar star, String day, String... rows) {
        star.write("deliveries/" + day + "/hut.csv", "hut_code,hut_name,beds\n" + String.join("\n", rows) + "\n");
    }

    private static void draft(TestStar star, Kind kind, String name, String table, String example) {
        Drafting drafting = new Drafting(star.project(), star.warehouse());
        new Adopting(star.project(), star.warehouse())
                .adopt(
                        kind,
                        name,
                        table,
                        example.isEmpty()
                                ? Optional.empty()
                                : Optional.of(drafting.delivered(
                                        name,
                                        example,
                                        Optional.empty(),
                                        Path.of("").toAbsolutePath())));
    }

    private static List<String> failing(TestStar star) {
        return new Verifier(star.warehouse())
                .verify(star.project().definitions()).stream()
                        .filter(verdict -> !verdict.holds())
                        .map(Verdict::claim)
                        .toList();
    }

    @ParameterizedTest
    @EnumSource
    void goesOnWithVersions(Made made) {
        try (TestStar star = star(made.script)) {
            String key = made.key;
            List<String> columns = star.warehouse().columns("dim_hut").stream()
                    .map(column -> column.name())
                    .toList();
            String closed = "select " + String.join(", ", columns) + " from dim_hut where not (" + made.isOpen
                    + ") and " + key + " < 40 order by " + key;
            List<String> before = star.rows(closed);
            deliver(star, "2026-03-01", "ADL,Adlerhorst,34", "BER,Bergli,12");
            draft(star, Kind.DIMENSION, "hut", "dim_hut", "deliveries/2026-03-01/hut.csv");
            star.write("dimensions/hut.yaml", star.read("dimensions/hut.yaml").replace("2026-03-01", "{date}"));
            assertThat(failing(star)).as(star.read("dimensions/hut.yaml")).isEmpty();
            assertThat(star.loaded("2026-03-01", "dim_hut").counts())
                    .as(star.read("dimensions/hut.yaml"))
                    .containsEntry("unchanged", 2L);
            deliver(star, "2026-03-02", "ADL,Adlerhorst,40", "BER,Bergli,12", "CAN,Canova,20");
            assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                    .containsEntry("new", 1L)
                    .containsEntry("versioned", 1L)
                    .containsEntry("unchanged", 1L);
            deliver(star, "2026-03-03", "ADL,Adlerhorst,40", "CAN,Canova,21");
            star.loaded("2026-03-03", "dim_hut");
            assertThat(failing(star)).isEmpty();
            assertThat(star.rows(closed)).as("what was closed stands as it was").containsAll(before);
            String code = columns.stream()
                    .filter(column -> column.matches("(hut_)?code"))
                    .findFirst()
                    .orElseThrow();
            assertThat(star.rows("select " + code + ", beds, version, case when " + made.isOpen
                            + " then 'open' else 'closed' end from dim_hut where " + code
                            + " in ('ADL', 'BER', 'CAN') order by " + code + ", version"))
                    .containsExactly(
                            "ADL|30|1|closed",
                            "ADL|34|2|closed",
                            "ADL|40|3|open",
                            "BER|12|1|open",
                            "CAN|20|1|closed",
                            "CAN|21|2|open");
            assertThat(star.rows("select count(*) from dim_hut where " + key + " in (-1, -2)"))
                    .containsExactly("2");
            long highest = Long.parseLong(before.get(before.size() - 1).split("\\|")[0]);
            assertThat(star.warehouse().number("select min(" + key + ") from dim_hut where beds in (40, 20, 21)"))
                    .as("keys go on after the highest")
                    .isGreaterThan(highest);
        }
    }

    @Test
    void goesOnWithFactsThatPointAtVersions() {
        try (TestStar star = star(Made.NULL_END.script
                + """
                ;
                create table fact_stay (stay_id bigint %s, booking varchar(10), night date, hut_sk integer, guests integer, paid decimal(10,2));
                insert into fact_stay (booking, night, hut_sk, guests, paid) values
                  ('b1', date '2021-07-01', 1, 2, 80.00), ('b2', date '2025-07-01', 2, 3, 120.50), ('b3', date '2025-08-01', 3, 1, 40.00)""".formatted(TestWarehouses.onServer() ? "generated always as identity primary key" : ""))) {
            deliver(star, "2026-03-01", "ADL,Adlerhorst,40");
            star.write(
                    "deliveries/2026-03-01/stay.csv",
                    "booking,night,hut_code,guests,paid\nb4,2026-03-01,ADL,2,90.00\nb2,2025-07-01,ADL,4,160.50\n");
            draft(star, Kind.DIMENSION, "hut", "dim_hut", "deliveries/2026-03-01/hut.csv");
            draft(star, Kind.FACT, "stay", "fact_stay", "deliveries/2026-03-01/stay.csv");
            String fact = star.read("facts/stay.yaml");
            star.write("facts/stay.yaml", fact.replace("2026-03-01", "{date}"));
            assertThat(fact)
                    .contains(
                            "grain: booking",
                            "hut: {column: hut_sk, as-of: night}",
                            "paid: \"decimal(10,2)\"",
                            "guests: integer");
            assertThat(failing(star)).as(fact).isEmpty();
            star.load("2026-03-01");
            assertThat(star.rows("select booking, hut_sk, guests, paid from fact_stay order by booking"))
                    .as(fact)
                    .containsExactly("b1|1|2|80.00", "b2|2|4|160.50", "b3|3|1|40.00", "b4|4|2|90.00");
            assertThat(failing(star)).isEmpty();
            if (TestWarehouses.onServer()) {
                star.warehouse()
                        .execute(
                                "insert into fact_stay (booking, night, hut_sk, guests) values ('by hand', date '2026-03-09', 3, 1)");
            }
            star.write(
                    "deliveries/2026-03-02/stay.csv",
                    "booking,night,hut_code,guests,paid\nb1,2021-07-01,ADL,5,80.00\n");
            star.loaded("2026-03-02", "fact_stay");
            assertThat(star.rows("select hut_sk, guests from fact_stay where booking = 'b1'"))
                    .as("a night of 2021 points at the version of 2021")
                    .containsExactly("1|5");
        }
    }

    /** The database counts the keys itself: it is given ours, and counts on behind them. */
    @Test
    void goesOnWithKeysThatTheDatabaseCounts() {
        if (!TestWarehouses.onServer()) {
            return;
        }
        try (TestStar star = star("""
                create table dim_guest (guest_sk integer generated always as identity primary key, guest_no varchar(10), name varchar(40));
                insert into dim_guest (guest_no, name) values ('g1', 'Berta'), ('g2', 'Curdin')""")) {
            star.write("deliveries/2026-03-01/guest.csv", "guest_no,name\ng2,Curdin A\ng3,Dora\n");
            draft(star, Kind.DIMENSION, "guest", "dim_guest", "deliveries/2026-03-01/guest.csv");
            star.loaded("2026-03-01", "dim_guest");
            star.warehouse().execute("insert into dim_guest (guest_no, name) values ('g9', 'by hand')");
            assertThat(star.rows("select guest_sk, guest_no, name from dim_guest where guest_sk > 0 order by guest_sk"))
                    .containsExactly("1|g1|Berta", "2|g2|Curdin A", "3|g3|Dora", "4|g9|by hand");
        }
    }

    @Test
    void severalCurrentRowsAreNamedAndStopTheLoad() {
        try (TestStar star = star("""
                create table dim_hut (hut_sk integer, hut_code varchar(10), hut_name varchar(40), beds integer,
                  valid_from date, valid_to date, active varchar(1));
                insert into dim_hut values
                  (1, 'ADL', 'Adlerhorst', 30, date '2020-01-01', null, 'Y'),
                  (2, 'ADL', 'Adlerhorst', 34, date '2024-01-01', null, 'Y'),
                  (3, 'BER', 'Bergli', 12, date '2020-01-01', date '2024-01-01', 'N'),
                  (4, 'BER', 'Bergli', 13, date '2024-01-01', null, 'Y')""")) {
            deliver(star, "2026-03-01", "ADL,Adlerhorst,40", "BER,Bergli,14");
            draft(star, Kind.DIMENSION, "hut", "dim_hut", "deliveries/2026-03-01/hut.csv");
            assertThat(failing(star)).contains("a member has exactly one current row");
            assertThat(star.failure("2026-03-01"))
                    .contains("1 member of dim_hut does not have one current row, such as ADL, which has 2");
            assertThat(star.rows("select count(*) from dim_hut")).containsExactly("4");
            assertThat(star.warehouse().columns("dim_hut"))
                    .as("nothing was added")
                    .hasSize(7);
        }
    }

    @Test
    void aColumnThatNothingFillsIsRefusedInWords() {
        try (TestStar star = star("""
                create table dim_guest (guest_sk bigint, guest_no varchar(10), name varchar(40), branch varchar(10) not null);
                insert into dim_guest values (1, 'g1', 'Berta', 'CH'), (2, 'g2', 'Curdin', 'AT')""")) {
            star.write("deliveries/2026-03-01/guest.csv", "guest_no,name\ng3,Dora\n");
            draft(star, Kind.DIMENSION, "guest", "dim_guest", "deliveries/2026-03-01/guest.csv");
            assertThat(star.read("dimensions/guest.yaml")).contains("Nothing is delivered under a name like these");
            assertThat(star.failure("2026-03-01"))
                    .contains(
                            "dim_guest has a column that is never null and that the definition does not fill: branch");
        }
    }

    @Test
    void twoColumnsMayBeTheKeyAndNamesMayDiffer() {
        try (TestStar star = star("""
                create table d_room (room_key bigint, hut varchar(10), room_no integer, beds integer, floor_name varchar(20));
                insert into d_room values (1, 'ADL', 1, 6, 'ground'), (2, 'ADL', 2, 4, 'roof'), (3, 'BER', 1, 6, 'ground'), (4, 'BER', 2, 8, 'roof')""")) {
            star.write("deliveries/2026-03-01/room.csv", "hut,No,beds,floor name\nADL,1,7,ground\nCAN,1,2,roof\n");
            draft(star, Kind.DIMENSION, "room", "d_room", "deliveries/2026-03-01/room.csv");
            assertThat(star.read("dimensions/room.yaml"))
                    .contains("key: {hut: hut, room_no: no}", "floor_name: {type: 1, take: \"\\\"floor name\\\"\"}");
            star.loaded("2026-03-01", "d_room");
            assertThat(
                            star.rows(
                                    "select room_key, hut, room_no, beds, floor_name from d_room where room_key > 0 order by 1"))
                    .containsExactly(
                            "1|ADL|1|7|ground",
                            "2|ADL|2|4|roof",
                            "3|BER|1|6|ground",
                            "4|BER|2|8|roof",
                            "5|CAN|1|2|roof");
            assertThat(failing(star)).isEmpty();
        }
    }

    /** Who wrote a row is a name there, and a version is that of a pricing scheme: both stay what they are. */
    @Test
    void columnsThatOnlyHaveTheNamesOfAuditColumnsStayWhatTheyAre() {
        try (TestStar star = star("""
                create table dim_hut (hut_sk integer, hut_code varchar(10), version varchar(10), inserted_by varchar(20),
                  inserted_at timestamp);
                insert into dim_hut values
                  (1, 'ADL', 'summer', 'BATCH_7', timestamp '2024-01-01 05:00:00'),
                  (2, 'BER', 'winter', 'BATCH_7', timestamp '2024-01-01 05:00:00');
                create table fact_stay (booking varchar(10), guests integer, updated_by varchar(20));
                insert into fact_stay values ('b1', 2, 'BATCH_9')""")) {
            star.write("deliveries/2026-03-01/hut.csv", "hut_code,version\nADL,autumn\nCAN,winter\n");
            star.write("deliveries/2026-03-01/stay.csv", "booking,guests\nb1,3\n");
            draft(star, Kind.DIMENSION, "hut", "dim_hut", "deliveries/2026-03-01/hut.csv");
            draft(star, Kind.FACT, "stay", "fact_stay", "deliveries/2026-03-01/stay.csv");
            star.load("2026-03-01");
            assertThat(star.rows("select hut_code, version, inserted_by, inserted_by_audit = 1 from dim_hut"
                            + " where hut_sk > 0 order by hut_code"))
                    .containsExactly("ADL|autumn|BATCH_7|false", "BER|winter|BATCH_7|false", "CAN|winter|null|true");
            assertThat(star.rows("select booking, guests, updated_by, updated_by_audit from fact_stay"))
                    .containsExactly("b1|3|BATCH_9|1");
            assertThat(failing(star)).isEmpty();
            assertThatThrownBy(() -> draft(star, Kind.DIMENSION, "cabin", "dim_hut", ""))
                    .isInstanceOf(UsageException.class)
                    .hasMessageContaining("The table dim_hut is already that of \"hut\", in dimensions/hut.yaml:2:12");
        }
    }

    @Test
    void whatCannotBeGoneOnWithIsSaidAndNothingIsWritten() {
        try (TestStar star = star("""
                create table notes (hut varchar(10), remark varchar(40));
                insert into notes values ('ADL', 'x'), ('ADL', 'x')""")) {
            assertThatThrownBy(() -> draft(star, Kind.DIMENSION, "note", "notes", ""))
                    .isInstanceOf(UsageException.class)
                    .hasMessageContaining("No column of notes can be its surrogate key");
            assertThatThrownBy(() -> draft(star, Kind.FACT, "note", "notes", ""))
                    .hasMessageContaining("No column of notes, and no two together, tell all its rows apart");
            assertThatThrownBy(() -> draft(star, Kind.FACT, "note", "nowhere", ""))
                    .hasMessageContaining("There is no table nowhere");
            assertThat(folder.resolve("facts")).doesNotExist();
            assertThat(folder.resolve("dimensions")).doesNotExist();
        }
    }

    @Test
    void withoutWordOfItAForeignTableIsRefused() {
        try (TestStar star = star(Made.NULL_END.script)) {
            deliver(star, "2026-03-01", "ADL,Adlerhorst,34");
            star.write("dimensions/hut.yaml", """
                    dimension: hut
                    from: {files: "deliveries/{date}/hut.csv"}
                    key: hut_code
                    attributes: {hut_name: type 1, beds: type 2}
                    surrogate: {column: hut_sk}
                    """);
            assertThat(star.failure("2026-03-01")).contains("say standing: true where it is");
        }
    }

    /** Where no version follows another, nothing tells how they end: they go on ending as the project says. */
    @ParameterizedTest
    @ValueSource(strings = {"inclusive", "exclusive"})
    void whereNothingTellsHowVersionsEndTheProjectDoes(String ends) {
        try (TestStar star = star("""
                create table dim_hut (sk integer, hut_code varchar(10), beds integer, valid_from date, valid_to date);
                insert into dim_hut values (1, 'ADL', 30, date '2020-01-01', null), (2, 'BER', 12, date '2021-01-01', null)""")) {
            star.write("zeitkammer.yaml", star.read("zeitkammer.yaml") + "conventions: {valid-to: " + ends + "}\n");
            draft(star, Kind.DIMENSION, "hut", "dim_hut", "");
            assertThat(star.read("dimensions/hut.yaml"))
                    .contains("no version follows another, so that nothing tells")
                    .doesNotContain("valid-to: inclusive", "valid-to: exclusive");
        }
    }

    /** Tschuggen was given up in 2021; it comes back in a version of its own, and its end stays what it was. */
    @ParameterizedTest
    @ValueSource(ints = {8, 9})
    void aMemberThatHadEndedComesBack(int beds) {
        try (TestStar star = star(Made.BARE.script)) {
            deliver(star, "2026-03-01", "ADL,Adlerhorst,34");
            draft(star, Kind.DIMENSION, "hut", "dim_hut", "deliveries/2026-03-01/hut.csv");
            assertThat(star.read("dimensions/hut.yaml")).contains("# 1 member has ended; a row of one brings it back");
            star.write("dimensions/hut.yaml", star.read("dimensions/hut.yaml").replace("2026-03-01", "{date}"));
            star.loaded("2026-03-01", "dim_hut");
            deliver(star, "2026-03-02", "TSC,Tschuggen," + beds);
            assertThat(star.loaded("2026-03-02", "dim_hut").count("returned")).isEqualTo(1);
            assertThat(
                            star.rows(
                                    "select beds, von, bis, is_current, is_deleted from dim_hut where hut_code = 'TSC' order by von"))
                    .containsExactly("8|2020-01-01|2021-06-30|false|true", beds + "|2026-03-02|null|true|false");
            assertThat(failing(star)).isEmpty();
        }
    }

    /** A flag on an older version, no beginning, versions at one time: each load would make such a history worse. */
    @ParameterizedTest
    @CsvSource(
            delimiter = ';',
            value = {
                "(1, 'ADL', 30, date '2020-01-01', date '2024-01-01', true), (2, 'ADL', 34, date '2024-01-01', null, false);the current version is the newest",
                "(1, 'ADL', 30, null, null, true);a version has a beginning",
                "(1, 'ADL', 30, date '2020-01-01', date '2024-06-01', false), (2, 'ADL', 34, date '2024-01-01', null, true);versions do not overlap"
            })
    void aHistoryThatIsNotSoundIsNotGoneOnWith(String rows, String claim) {
        try (TestStar star = star(
                "create table dim_hut (sk integer, hut_code varchar(10), beds integer, valid_from date, valid_to date, is_current boolean);\ninsert into dim_hut values "
                        + rows)) {
            star.write("dimensions/hut.yaml", """
                    dimension: hut
                    standing: true
                    from: {files: "deliveries/{date}/hut.csv"}
                    key: hut_code
                    attributes: {beds: type 2}
                    surrogate: {column: sk}
                    history: {open-end: none}
                    """);
            deliver(star, "2026-03-01", "ADL,Adlerhorst,40");
            List<String> before = star.rows("select * from dim_hut order by 1");
            assertThat(new Checker(star.project(), star.warehouse(), Clock.systemUTC())
                            .check()
                            .findings())
                    .anyMatch(finding -> finding.toString().contains("\"" + claim + "\" fails for"));
            assertThat(star.failure("2026-03-01"))
                    .contains(
                            "No load can go on with the history of dim_hut",
                            claim,
                            "hut_code ADL",
                            "Nothing was changed");
            assertThat(star.rows("select sk, hut_code, beds, valid_from, valid_to, is_current from dim_hut order by 1"))
                    .isEqualTo(before);
        }
    }
}
