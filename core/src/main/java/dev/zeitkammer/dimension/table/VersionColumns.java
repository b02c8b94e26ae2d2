package dev.zeitkammer.dimension.table;

import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;

/** The housekeeping columns of a version under an alias, and what follows from them. */
public final class VersionColumns {

    private final DimensionTable table;
    private final Dialect dialect;
    private final Moments moments;

    public VersionColumns(DimensionTable table, Dialect dialect) {
        this.table = table;
        this.dialect = dialect;
        this.moments = new Moments(table, dialect);
    }

    public String own(String alias, Role role) {
        return dialect.column(alias, table.name(role));
    }

    /** The condition that a version is current, or its member deleted. */
    public String holds(String alias, Role role) {
        return table.holds(dialect, alias, role);
    }

    /** The latest moment at which a version's values were stated. */
    public String stated(String alias) {
        return own(alias, table.hasEffective() ? Role.LAST_STATED : Role.VALID_FROM);
    }

    /** The latest statement of a member, by its current version: a deletion is one too. */
    public String latest(String alias) {
        return "case when " + holds(alias, Role.IS_DELETED) + " then " + ended(alias) + " else " + stated(alias)
                + " end";
    }

    /** The instant at which a version ends. */
    public String ended(String alias) {
        return moments.ended(own(alias, Role.VALID_TO));
    }

    /** Whether a version stands in for a member that has not come yet. */
    public String isPlaceholder(String alias) {
        return "coalesce(" + own(alias, Role.ROW_ORIGIN) + " = " + dialect.text(RowOrigin.PLACEHOLDER.word())
                + ", false)";
    }
}
