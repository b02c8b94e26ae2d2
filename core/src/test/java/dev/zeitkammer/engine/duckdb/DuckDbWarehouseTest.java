package dev.zeitkammer.engine.duckdb;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.WarehouseException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class DuckDbWarehouseTest {

    private static final long MUCH = 1L << 30;

    @TempDir
    Path folder;

    private DuckDbWarehouse open(Access access, Optional<String> memory) {
        DatabaseAddress address = new DatabaseAddress("local", "jdbc:duckdb:warehouse.duckdb", null, null, null, null);
        return DuckDbWarehouse.open(address, folder, access, memory);
    }

    private static String setting(DuckDbWarehouse warehouse, String name) {
        return warehouse
                .firstText("select cast(current_setting('" + name + "') as varchar)")
                .orElseThrow();
    }

    @Test
    void memoryIsWhatIsSaidOrHalfOfTheMachine() {
        try (DuckDbWarehouse warehouse = open(Access.WRITE, Optional.of("1GiB"))) {
            assertThat(setting(warehouse, "memory_limit")).isEqualTo("1.0 GiB");
        }
        try (DuckDbWarehouse warehouse = open(Access.WRITE, Optional.empty())) {
            String half = setting(warehouse, "memory_limit");
            warehouse.execute("reset memory_limit");
            assertThat(bytes(half) / bytes(setting(warehouse, "memory_limit")))
                    .as("of the four fifths that the engine takes by itself")
                    .isBetween(0.60, 0.65);
        }
    }

    @Test
    void whereMemoryIsNotEnoughTheMessageNamesTheKeyword() {
        try (DuckDbWarehouse warehouse = open(Access.WRITE, Optional.of("50MB"))) {
            assertThatThrownBy(() -> warehouse.number("select length(list(i)) from range(50000000) as t(i)"))
                    .isInstanceOf(WarehouseException.class)
                    .message()
                    .contains("Out of Memory", "memory: in zeitkammer.yaml")
                    .doesNotContain("SET ", "http", "\n");
        }
    }

    private static double bytes(String size) {
        String[] parts = size.split(" ");
        return Double.parseDouble(parts[0])
                * Math.pow(1024, List.of("KiB", "MiB", "GiB", "TiB").indexOf(parts[1]));
    }

    @Test
    void smallDeliveriesToSmallWarehousesTakeOneThread() {
        try (DuckDbWarehouse warehouse = open(Access.WRITE, Optional.empty())) {
            assertThat(setting(warehouse, "threads")).isEqualTo("1");
            warehouse.expect(MUCH);
            assertThat(setting(warehouse, "threads"))
                    .isEqualTo(String.valueOf(Runtime.getRuntime().availableProcessors()));
            warehouse.expect(Long.MAX_VALUE);
            warehouse.expect(1);
            assertThat(setting(warehouse, "threads")).isEqualTo("1");
        }
    }

    @Test
    void whatAKilledLoadSpilledIsRemovedByTheNext() throws IOException {
        open(Access.WRITE, Optional.empty()).close();
        Path spill = Files.createDirectory(folder.resolve("warehouse.duckdb.tmp"));
        Files.writeString(spill.resolve("duckdb_temp_storage-0.tmp"), "left behind");
        open(Access.READ, Optional.empty()).close();
        assertThat(spill).exists();
        open(Access.WRITE, Optional.empty()).close();
        assertThat(spill).doesNotExist();
    }

    @Test
    void whatALoadSpillsIsGoneWhenItEnds() {
        try (DuckDbWarehouse warehouse = open(Access.WRITE, Optional.of("60MB"))) {
            warehouse.execute(
                    "create temp table much as select i, 'Hut ' || hash(i) as hut from range(4000000) as r(i)");
            assertThat(folder.resolve("warehouse.duckdb.tmp")).isNotEmptyDirectory();
            assertThat(warehouse.number("select count(distinct hut) from much")).isEqualTo(4_000_000);
        }
        assertThat(folder.resolve("warehouse.duckdb.tmp")).doesNotExist();
    }

    @Test
    void columnsAreAskedAnewWhenATableMayHaveChanged() {
        try (DuckDbWarehouse warehouse = open(Access.WRITE, Optional.empty())) {
            assertThat(warehouse.columns("dim_hut")).isEmpty();
            warehouse.execute("create table dim_hut (code varchar)");
            assertThat(warehouse.columns("dim_hut")).containsExactly(new Column("code", SqlType.VARCHAR));
            warehouse.rehearse(() -> {
                warehouse.execute("alter table dim_hut add column beds integer");
                return assertThat(warehouse.columns("dim_hut")).hasSize(2);
            });
            assertThat(warehouse.columns("dim_hut")).hasSize(1);
            warehouse.execute("drop table dim_hut");
            assertThat(warehouse.has("dim_hut")).isFalse();
        }
    }

    @Test
    void reachesNoFileBeyondItsFolders(@TempDir Path folder) throws IOException {
        Path inside = Files.createDirectory(folder.resolve("in"));
        Files.writeString(inside.resolve("huts.csv"), "code\nA\n");
        Files.writeString(folder.resolve("other.csv"), "code\nB\n");
        Warehouse warehouse = DuckDbWarehouse.inMemory(Optional.empty());
        try (warehouse) {
            warehouse.confine(Set.of(inside));
            assertThat(warehouse.firstText("select code from read_csv('" + inside.resolve("huts.csv") + "')"))
                    .contains("A");
            for (String beyond : List.of(
                    "select content from read_text('" + folder.resolve("other.csv") + "')",
                    "select code from '" + folder.resolve("other.csv") + "'",
                    "select file from glob('" + folder + "/*')",
                    "copy (select 1) to '" + folder.resolve("new.csv") + "'",
                    "attach '" + folder.resolve("new.duckdb") + "' as other",
                    "set enable_external_access = true",
                    "set allowed_directories = ['/']")) {
                assertThatThrownBy(() -> warehouse.execute(beyond)).as(beyond).isInstanceOf(WarehouseException.class);
            }
        }
        assertThat(folder.resolve("new.csv")).doesNotExist();
    }

    @Test
    void aNewFileIsItsOwnersAndItsUrlTakesNoOptions(@TempDir Path folder) throws IOException {
        DatabaseAddress address = new DatabaseAddress("w", "jdbc:duckdb:w.duckdb", null, null, null, null);
        DuckDbWarehouse.open(address, folder, Access.WRITE, Optional.empty()).close();
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(folder.resolve("w.duckdb"))))
                .doesNotEndWith("r--");
        DatabaseAddress withOptions =
                new DatabaseAddress("w", "jdbc:duckdb:w.duckdb;session_init_sql_file=x.sql", null, null, null, null);
        assertThatThrownBy(() -> DuckDbWarehouse.open(withOptions, folder, Access.WRITE, Optional.empty()))
                .hasMessageContaining("takes options, and none are taken");
    }

    /** Such a join has no count of its own; taken for 0 rows written, it would fail a load that lost nothing. */
    @Test
    void rowsThatACorrelatedQuestionLeavesAreNotTakenForLost() {
        try (Warehouse warehouse = open(Access.WRITE, Optional.empty())) {
            warehouse.execute("create table huts as select * from (values ('A', 1), ('B', 2)) as t(code, beds)");
            warehouse.execute("create table stays as select 'A' as code, 'web' as channel");
            warehouse.keep("zk_left", """
                    select beds
                    from (select h.*, row_number() over (partition by h.code order by h.beds) as nth from huts as h) as told
                    where nth = 1 and not exists (
                      select 1 from stays as s where s.code = told.code and s.channel <> 'desk')""");
            assertThat(warehouse.compareWritten(List.of("(select max(beds) from zk_left) = 2")))
                    .containsExactly(true);
        }
    }
}
