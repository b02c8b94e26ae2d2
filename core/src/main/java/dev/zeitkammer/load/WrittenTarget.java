package dev.zeitkammer.load;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Stamp;

/** What stands in a table after it was written: trust no engine. */
final class WrittenTarget {

    private final Warehouse warehouse;
    private final Definition definition;
    private final Stamp stamp;

    WrittenTarget(Warehouse warehouse, Definition definition, Stamp stamp) {
        this.warehouse = warehouse;
        this.definition = definition;
        this.stamp = stamp;
    }

    /** Compares what stands in the table with the number and the moment of this load with what the plans say was written. */
    void compare(Tally tally) {
        if (!isStamped()) {
            return;
        }
        String inserted = isOfThisLoad(AuditColumn.INSERTED_BY, AuditColumn.INSERTED_AT);
        String updated = isOfThisLoad(AuditColumn.UPDATED_BY, AuditColumn.UPDATED_AT);
        String members = definition instanceof Dimension dimension
                ? " where " + dimension.isMember(warehouse.dialect().quote(dimension.keyColumn()))
                : "";
        warehouse.query(
                Sql.of(
                                "select count(case when ${inserted} then 1 end), count(case when ${updated} and not (${inserted}) then 1 end) from ${target}${members}")
                        .with("inserted", inserted)
                        .with("updated", updated)
                        .with("target", warehouse.table(definition.table()))
                        .with("members", members)
                        .text(),
                row -> {
                    tally.compare(row.number(1), row.number(2));
                    return true;
                });
    }

    private String isOfThisLoad(AuditColumn by, AuditColumn at) {
        Dialect dialect = warehouse.dialect();
        return dialect.quote(definition.conventions().column(by)) + " = " + stamp.load() + " and "
                + dialect.quote(definition.conventions().column(at)) + " = " + dialect.timestamp(stamp.at());
    }

    private boolean isStamped() {
        String name = definition.conventions().column(AuditColumn.INSERTED_BY);
        return warehouse.columns(definition.table()).stream()
                .anyMatch(column -> column.name().equals(name));
    }
}
