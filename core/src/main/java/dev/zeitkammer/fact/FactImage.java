package dev.zeitkammer.fact;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.step.Stamp;

/** The row of a fact that a staged row, alias {@code n}, makes, or makes of a fact that is there, alias {@code f}. */
record FactImage(FactTable table, Dialect dialect, Stamp stamp) {

    /** The columns of a fact as a staged row makes it; stamps of a fact that is there stay. */
    String of(boolean isNew) {
        return dialect.list(table.columns(), column -> value(column, isNew) + " as " + dialect.quote(column.name()));
    }

    private String value(Column column, boolean isNew) {
        String name = column.name();
        if (name.equals(table.stamp(AuditColumn.INSERTED_AT)) || name.equals(table.stamp(AuditColumn.INSERTED_BY))) {
            String now = name.equals(table.stamp(AuditColumn.INSERTED_AT))
                    ? dialect.timestamp(stamp.at())
                    : "cast(" + stamp.load() + " as bigint)";
            return isNew ? now : dialect.column("f", name);
        }
        if (name.equals(table.stamp(AuditColumn.UPDATED_AT))) {
            return dialect.timestamp(stamp.at());
        }
        if (name.equals(table.stamp(AuditColumn.UPDATED_BY))) {
            return "cast(" + stamp.load() + " as bigint)";
        }
        boolean marks = marks() && name.equals(table.stamp(AuditColumn.IS_DELETED));
        return marks ? table.deletedFlag().stored(dialect, "n.zk_deletes") : dialect.column("n", name);
    }

    /** Whether cancelled facts are marked instead of removed. */
    boolean marks() {
        return table.definition().marksDeleted();
    }

    /** Whether a fact that is there, alias {@code f}, is marked. */
    String isMarked() {
        return marks() ? table.definition().conventions().holds(dialect, "f", AuditColumn.IS_DELETED) : "false";
    }
}
