package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouses;
import dev.zeitkammer.load.TestCluster;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;

/** A schema of its own on the cluster, and what tests make and read there. */
abstract class OnCluster {

    @TempDir
    Path folder;

    DatabaseAddress address;
    Warehouse warehouse;

    @BeforeEach
    void open() {
        address = TestCluster.newSchema();
        warehouse = opened();
    }

    Warehouse opened() {
        return Warehouses.open(address, folder, Access.WRITE, Optional.empty());
    }

    @AfterEach
    void close() {
        warehouse.close();
    }

    String made(String name, Column... columns) {
        String table = warehouse.table(name);
        warehouse.execute(warehouse.dialect().createTable(table, List.of(columns)));
        return table;
    }

    String numbers(String name) {
        return made(name, new Column("number", SqlType.BIGINT));
    }

    static List<Long> in(Warehouse warehouse, String table) {
        return warehouse.query("select number from " + table + " order by 1", row -> row.number(1));
    }

    List<String> branches(String table) {
        return warehouse.query(
                "select name from " + table + ".refs where name <> 'main'", row -> String.valueOf(row.text(1)));
    }
}
