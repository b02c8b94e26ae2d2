package dev.zeitkammer.engine.postgres;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.Warehouses;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import dev.zeitkammer.staging.LoadDate;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What a server brings with it: lost connections, two programs at once, readers, rights, schemas, connections side by side. */
@Tag("slow")
class ServerTest {

    private static final String ROWS = """
            select 'hut', hut_key, code, category, cast(valid_from as varchar), cast(valid_to as varchar) from dim_hut
            union all select 'stay', hut_key, cast(stay_no as varchar), null, null, null from fact_stay order by 1, 2, 3""";

    @TempDir
    Path folder;

    private TestStar files;
    private DatabaseAddress address;

    @BeforeEach
    void star() {
        address = TestWarehouses.onServer(TestWarehouses.newDatabase(), null);
        files = new TestStar(folder)
                .write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "{date}/huts.csv", columns: {since: date}, where: "Category <> 'XX'"}
                        key: code
                        attributes: {category: type 2}
                        history: {effective: since}
                        """)
                .write("dimensions/warden.yaml", """
                        dimension: warden
                        from: {files: "wardens.csv"}
                        key: no
                        attributes: {name: type 1}
                        """)
                .write("dimensions/area.yaml", """
                        dimension: area
                        from: {files: "areas.csv"}
                        key: area
                        attributes: {title: type 1}
                        lookups: {warden: {match: no, type: 1}}
                        """)
                .write("facts/stay.yaml", """
                        fact: stay
                        from: {files: "{date}/stays.csv", columns: {night: date}}
                        grain: stay_no
                        lookups: {hut: {match: code, as-of: night}}
                        """)
                .write("wardens.csv", "no,name\n1,Resi\n2,Luis\n")
                .write("areas.csv", "area,title,no\nN,North,1\nS,South,2\n")
                .write(
                        "2026-03-01/huts.csv",
                        "CODE,Category,since\nA,one,2026-03-01\nB,one,2026-03-01\nC,XX,2026-03-01\n")
                .write("2026-03-01/stays.csv", "stay_no,code,night\n1,A,2026-03-01\n")
                .write("2026-03-02/huts.csv", "CODE,Category,since\nA,two,2026-03-02\nB,two,2026-03-02\n")
                .write("2026-03-02/stays.csv", "stay_no,code,night\n2,A,2026-03-02\n3,B,2026-03-01\n");
    }

    private Warehouse open() {
        return Warehouses.open(address, folder, Access.WRITE);
    }

    private LoadEntry load(Warehouse warehouse, String date, LoadListener listener, int jobs) {
        return new Loader(files.project(), warehouse, listener, Clock.systemUTC())
                .load(new Request(
                        LoadDate.parse(date),
                        List.of(),
                        false,
                        true,
                        Set.of(),
                        false,
                        jobs,
                        Optional.empty(),
                        Optional.empty()));
    }

    private LoadStatus load(String date) {
        try (Warehouse warehouse = open()) {
            return load(warehouse, date, LoadListener.NONE, 1).status();
        }
    }

    private List<String> rows(String sql) {
        try (Warehouse warehouse = open()) {
            return warehouse.query(sql, row -> {
                List<String> values = new ArrayList<>();
                for (int column = 1; column <= row.width(); column++) {
                    values.add(String.valueOf(row.text(column)));
                }
                return String.join("|", values);
            });
        }
    }

    /** A repair by hand that begins between what a load reads and what it writes waits until the load has ended. */
    @Test
    void othersWriteBeforeALoadReadsOrAfterItHasWritten() throws Exception {
        load("2026-03-01");
        try (Connection hand = connection()) {
            hand.createStatement().execute("set lock_timeout = '300ms'");
            List<String> said = new ArrayList<>();
            LoadListener repairing = at("dim_hut", "comparison", () -> {
                try (Statement repair = hand.createStatement()) {
                    repair.execute("update dim_hut set category = 'by hand' where code = 'A'");
                    said.add("written");
                } catch (SQLException held) {
                    said.add(String.valueOf(held.getMessage()));
                }
                try (Statement reading = hand.createStatement()) {
                    said.add("reads "
                            + reading.executeQuery("select * from dim_hut").next());
                } catch (SQLException refused) {
                    said.add(String.valueOf(refused.getMessage()));
                }
            });
            try (Warehouse warehouse = open()) {
                assertThat(load(warehouse, "2026-03-02", repairing, 1).status()).isEqualTo(LoadStatus.DONE);
            }
            assertThat(said).hasSize(2);
            assertThat(said.get(0)).contains("lock timeout");
            assertThat(said.get(1)).isEqualTo("reads true");
        }
        assertThat(rows("select count(*) from dim_hut where code = 'A' and is_current"))
                .containsExactly("1");
    }

    @Test
    void whoeverWritesToATableIsWaitedForAndNamed() throws Exception {
        load("2026-03-01");
        try (Connection hand = connection();
                Warehouse warehouse = open()) {
            hand.setAutoCommit(false);
            hand.createStatement()
                    .execute(
                            "set application_name = 'mending'; update dim_hut set category = 'by hand' where code = 'A'");
            warehouse.waitForOthers(Duration.ZERO);
            LoadEntry held = load(warehouse, "2026-03-02", LoadListener.NONE, 1);
            assertThat(held.tables().stream()
                            .filter(table -> table.table().equals("dim_hut"))
                            .map(table -> table.error().orElseThrow()))
                    .singleElement()
                    .asString()
                    .contains(
                            "Somebody else is writing to dim_hut (process ", "mending, idle in transaction)", "--wait");
            hand.rollback();
            assertThat(load(warehouse, "2026-03-02", LoadListener.NONE, 1).status())
                    .isEqualTo(LoadStatus.DONE);
        }
    }

    private Connection connection() throws SQLException {
        return DriverManager.getConnection(address.url(), "postgres", "");
    }

    private static LoadListener at(String table, String step, Runnable work) {
        return new LoadListener() {
            @Override
            public void step(String ofTable, Caption now) {
                if (ofTable.equals(table) && now.name().equals(step)) {
                    work.run();
                }
            }
        };
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"dim_hut|changes", "dim_hut|insert versions", "fact_stay|lookups", "fact_stay|insert facts"})
    void aLostConnectionLeavesNothingHalfDone(String place) {
        assertThat(load("2026-03-01")).isEqualTo(LoadStatus.DONE);
        List<String> before = rows(ROWS);
        String[] parts = place.split("\\|");
        try (Warehouse warehouse = open();
                Warehouse other = open()) {
            long backend = warehouse.number("select pg_backend_pid()");
            LoadEntry cut = load(
                    warehouse,
                    "2026-03-02",
                    at(parts[0], parts[1], () -> other.number("select pg_terminate_backend(" + backend + ")::int")),
                    1);
            assertThat(cut.status()).isEqualTo(LoadStatus.FAILED);
            assertThat(cut.tables().stream().flatMap(table -> table.error().stream()))
                    .anyMatch(error -> error.contains("was lost") && error.contains("loading again mends it"));
        }
        List<String> after = rows(ROWS);
        assertThat(after.stream().filter(row -> row.startsWith("stay")))
                .containsExactlyElementsOf(
                        before.stream().filter(row -> row.startsWith("stay")).toList());
        assertThat(load("2026-03-02")).isEqualTo(LoadStatus.DONE);
        List<String> mended = rows(ROWS);
        star();
        load("2026-03-01");
        load("2026-03-02");
        assertThat(mended).isEqualTo(rows(ROWS));
    }

    @Test
    void aReaderNeverSeesHalfATable() {
        load("2026-03-01");
        List<String> before = rows(ROWS);
        List<List<String>> seen = new ArrayList<>();
        try (Warehouse warehouse = open()) {
            load(warehouse, "2026-03-02", at("dim_hut", "insert versions", () -> seen.add(rows(ROWS))), 1);
        }
        assertThat(seen).containsExactly(before);
        assertThat(rows(ROWS)).isNotEqualTo(before);
    }

    @Test
    void aSecondLoadIsRefusedWhileOneRuns() {
        try (Warehouse warehouse = open()) {
            load(
                    warehouse,
                    "2026-03-01",
                    at(
                            "dim_hut",
                            "stage",
                            () -> assertThatThrownBy(() -> load("2026-03-01"))
                                    .isInstanceOf(BusyException.class)
                                    .hasMessageContaining("Another load is running")),
                    1);
        }
        assertThat(load("2026-03-01")).isEqualTo(LoadStatus.DONE);
    }

    @Test
    void dimensionsLoadSideBySideAsOneByOne() {
        load("2026-03-01");
        load("2026-03-02");
        List<String> expected = rows(ROWS);
        List<String> areas = rows("select area_key, area, title, warden_key from dim_area order by 1");
        star();
        try (Warehouse warehouse = open()) {
            LoadEntry entry = load(warehouse, "2026-03-01", LoadListener.NONE, 3);
            assertThat(entry.tables())
                    .extracting(table -> table.table())
                    .containsExactlyInAnyOrder("dim_hut", "dim_warden", "dim_area", "fact_stay");
            assertThat(entry.status()).isEqualTo(LoadStatus.DONE);
            assertThat(load(warehouse, "2026-03-02", LoadListener.NONE, 3).status())
                    .isEqualTo(LoadStatus.DONE);
        }
        assertThat(rows(ROWS)).isEqualTo(expected);
        assertThat(rows("select area_key, area, title, warden_key from dim_area order by 1"))
                .isEqualTo(areas);
    }

    @Test
    void schemasOfOneDatabaseAreWarehousesOfTheirOwn() {
        load("2026-03-01");
        String database = address.url().substring(address.url().lastIndexOf('/') + 1);
        address = TestWarehouses.onServer(database, "test");
        load("2026-03-01");
        assertThat(load("2026-03-02")).isEqualTo(LoadStatus.DONE);
        assertThat(rows("select max(load) from zeitkammer.loads")).containsExactly("1");
        assertThat(rows("select max(load) from zeitkammer_test.loads")).containsExactly("2");
        assertThat(rows("select count(*) from public.dim_hut union all select count(*) from test.dim_hut"))
                .containsExactly("4", "6");
    }

    @Test
    void saysWhatTheUserLacks() {
        try (Warehouse warehouse = open()) {
            String role = "clerk_" + address.url().substring(address.url().lastIndexOf('_') + 1);
            warehouse.execute("create role " + role + " login password 'hush'");
            warehouse.execute("create schema huts");
            DatabaseAddress clerk = new DatabaseAddress("server", address.url(), role, "hush", null, "huts");
            try (Warehouse limited = Warehouses.open(clerk, folder, Access.WRITE)) {
                assertThatThrownBy(() -> load(limited, "2026-03-01", LoadListener.NONE, 1))
                        .isInstanceOf(WarehouseException.class)
                        .hasMessageContaining("permission denied")
                        .hasMessageContaining("lacks a right");
            }
        }
    }

    @Test
    void saysWhyAServerCannotBeUsed() {
        DatabaseAddress down = new DatabaseAddress(
                "server", "jdbc:postgresql://127.0.0.1:1/huts?password=hush", "me", "hush", null, null);
        assertThatThrownBy(() -> Warehouses.open(down, folder, Access.WRITE))
                .isInstanceOf(BusyException.class)
                .hasMessageContaining("no server answers there")
                .hasMessageNotContaining("hush");
        DatabaseAddress nowhere = TestWarehouses.onServer("no_such_database", null);
        assertThatThrownBy(() -> Warehouses.open(nowhere, folder, Access.WRITE))
                .hasMessageContaining("\"no_such_database\" does not exist; create it first");
        DatabaseAddress noFile = new DatabaseAddress("server", address.url(), "postgres", null, "secrets/pg", null);
        assertThatThrownBy(() -> Warehouses.open(noFile, folder, Access.WRITE)).hasMessageContaining("password-file");
        files.write("secrets/pg", "any\n");
        Warehouses.open(noFile, folder, Access.WRITE).close();
    }

    @Test
    void workersWriteOnlyAsLongAsTheirLoadHoldsTheLock() {
        try (Warehouse main = open();
                Warehouse other = open()) {
            assertThat(main.lock()).isTrue();
            assertThat(main.firstText("select current_setting('idle_session_timeout')"))
                    .contains("0");
            try (Warehouse worker = main.another()) {
                assertThat(worker.<Boolean>inTransaction(() -> true)).isTrue();
                long pid = main.number("select pg_backend_pid()");
                boolean taken = worker.inTransaction(() -> {
                    other.query("select pg_terminate_backend(?, 5000)", row -> row.flag(1), (int) pid);
                    return other.lock();
                });
                assertThat(taken).as("the worker is in the middle of a table").isFalse();
                assertThat(other.lock()).isTrue();
                assertThatThrownBy(() -> worker.inTransaction(() -> true))
                        .isInstanceOf(WarehouseException.class)
                        .hasMessageContaining("lost its lock");
            }
        } catch (WarehouseException closingWhatWasEnded) {
            assertThat(closingWhatWasEnded).hasMessageContaining("lost");
        }
    }

    /** Also those of a connection that was opened beside it, whether files were read before or are read later. */
    @Test
    void readersOfFilesReachTheProjectOnly() {
        files.write("seen.csv", "a\n1\n");
        try (Warehouse main = open()) {
            assertThat(main.lock()).isTrue();
            main.confine(Set.of(folder.toAbsolutePath()));
            try (Warehouse worker = main.another()) {
                for (Warehouse warehouse : List.of(main, worker)) {
                    String seen =
                            warehouse.dialect().text(folder.resolve("seen.csv").toString());
                    assertThat(warehouse.stager().number("select count(*) from read_csv(" + seen + ")"))
                            .isEqualTo(1);
                    assertThatThrownBy(() -> warehouse.stager().number("select count(*) from read_csv('/etc/passwd')"))
                            .isInstanceOf(WarehouseException.class);
                }
            }
        }
    }

    /** Signs that mean something to COPY or to CSV, also alone in their row, and what is easily taken for null. */
    @Test
    void valuesAreHandedOverAsTheyAre() {
        List<@Nullable String> texts = Arrays.asList(
                "",
                null,
                "\\N",
                "\\",
                "\\.",
                "\\t",
                "a\tb",
                "a\nb",
                "a\r\nb\r",
                "\n",
                "\\\n",
                "\"",
                "\"a\"\"b",
                "a,b",
                " ",
                "null",
                "# a",
                "ä€😀",
                "\b\f\u000b",
                "x\\");
        List<Column> columns = List.of(new Column("said \"so\"", SqlType.VARCHAR));
        List<Column> plain =
                List.of(new Column("n", SqlType.INTEGER), new Column("plain", SqlType.VARCHAR), columns.get(0));
        try (Warehouse warehouse = open()) {
            warehouse
                    .stager()
                    .carry(
                            "zk_odd",
                            columns,
                            texts.stream()
                                    .map(Collections::<@Nullable Object>singletonList)
                                    .toList());
            warehouse.receive("zk_odd");
            assertThat(warehouse.query("select * from zk_odd", row -> row.text(1)))
                    .containsExactlyElementsOf(texts);
            warehouse.carry(
                    "zk_carried",
                    columns,
                    texts.stream()
                            .map(Collections::<@Nullable Object>singletonList)
                            .toList());
            assertThat(warehouse.query("select * from zk_carried", row -> row.text(1)))
                    .containsExactlyElementsOf(texts);

            // a column with nothing to escape beside one that has
            List<List<@Nullable Object>> rows = new ArrayList<>();
            texts.forEach(text -> rows.add(Arrays.asList(rows.size(), "a" + rows.size(), text)));
            warehouse.stager().carry("zk_beside", plain, rows);
            warehouse.receive("zk_beside");
            assertThat(warehouse.query(
                            "select * from zk_beside",
                            row -> Arrays.<@Nullable Object>asList((int) row.number(1), row.text(2), row.text(3))))
                    .isEqualTo(rows);
        }
    }
}
