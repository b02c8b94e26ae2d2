package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.spark.Heads.Line;
import java.util.Collection;
import java.util.List;
import java.util.function.Function;
import java.util.stream.Collectors;

/** What the metadata tables say of branches and snapshots. */
final class BranchMetadata {

    private final SparkWarehouse warehouse;

    BranchMetadata(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** Where some tables stand, each with its branch of a transaction. */
    Heads heads(String own, Collection<String> tables) {
        String both = "name in (" + warehouse.dialect().text(Heads.MAIN) + ", "
                + warehouse.dialect().text(own) + ")";
        return new Heads(own, lines(tables, table -> refs(table, both) + "\nunion all\n" + snapshots(table)));
    }

    /** The lines of a query for each table, asked at once. */
    List<Line> lines(Collection<String> tables, Function<String, String> each) {
        return tables.isEmpty()
                ? List.of()
                : warehouse.query(
                        tables.stream().map(each).collect(Collectors.joining("\nunion all\n")),
                        row -> new Line(
                                String.valueOf(row.text(1)),
                                String.valueOf(row.text(2)),
                                row.number(3),
                                row.number(4),
                                String.valueOf(row.text(5))));
    }

    /** A query of the branches of a table that meet a condition. */
    String refs(String table, String condition) {
        return "select " + warehouse.dialect().text(table)
                + " as zk_table, name, snapshot_id, cast(0 as bigint) as parent_id, '' as operation from "
                + warehouse.catalogName()
                + "."
                + table + ".refs where " + condition;
    }

    /** The snapshots of today, and of yesterday where clocks differ. */
    private String snapshots(String table) {
        return "select " + warehouse.dialect().text(table)
                + " as zk_table, '' as name, snapshot_id, coalesce(parent_id, 0) as parent_id, operation from "
                + warehouse.catalogName() + "." + table
                + ".snapshots where committed_at > current_timestamp() - interval '2' day";
    }
}
