package dev.zeitkammer.dimension.table;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Stamp;

/**
 * What everything knows that takes part in loading a dimension's table.
 *
 * @param stamp what the load writes into every row that it touches
 * @param lookups the keys of other members that the table stores
 */
public record DimensionLoading(DimensionTable table, Warehouse warehouse, Stamp stamp, StoredLookups lookups) {

    public Dialect dialect() {
        return warehouse.dialect();
    }

    /** The table in SQL. */
    public String target() {
        return warehouse.table(table.definition().table());
    }

    public Moments moments() {
        return new Moments(table, dialect());
    }
}
