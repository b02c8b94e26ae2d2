package dev.zeitkammer.engine.spark;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Tables and columns that a transaction makes: they stand at once, so that they must be taken away where it is taken back. */
final class MadeDefinitions {

    private final SparkWarehouse warehouse;
    private final SparkCatalog tables;
    private @Nullable Map<String, List<String>> before;

    MadeDefinitions(SparkWarehouse warehouse, SparkCatalog tables) {
        this.warehouse = warehouse;
        this.tables = tables;
    }

    /** Remembers what stands, unless it is remembered already. */
    void begin() {
        if (before == null) {
            before = tables.starColumns();
        }
    }

    /** What was made stays. */
    void forget() {
        before = null;
    }

    /** Drops what has come since. */
    void takeBack() {
        Map<String, List<String>> was = before;
        before = null;
        if (was != null) {
            tables.starColumns().forEach((table, columns) -> takeBack(table, columns, was.get(table)));
        }
    }

    private void takeBack(String table, List<String> columns, @Nullable List<String> was) {
        String name = warehouse.catalogName() + "." + table;
        if (was == null) {
            warehouse.execute("drop table " + name + " purge");
            return;
        }
        columns.stream()
                .filter(column -> !was.contains(column))
                .forEach(column -> warehouse.execute("alter table " + name + " drop column "
                        + warehouse.dialect().quote(column)));
    }
}
