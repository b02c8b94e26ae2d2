package dev.zeitkammer.dimension.timeline;

import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.Scratch;
import dev.zeitkammer.engine.Dialect;

/**
 * Values of type 1 where a definition overwrites the current version only: each version of a member whose timeline is rebuilt keeps the value
 * that its last statement supplied, and one that late rows make takes that of the version beside it. The aliases are those of
 * {@link RebuiltTimeline}.
 */
final class OwnValues {

    private final DimensionTable table;
    private final Dialect dialect;

    OwnValues(DimensionTable table, Dialect dialect) {
        this.table = table;
        this.dialect = dialect;
    }

    boolean any() {
        return table.definition().overwritesCurrentOnly()
                && !table.names(Role.TYPE_1).isEmpty();
    }

    /** The value of a version. */
    String value(DimensionColumn column) {
        String kept = column.isLookedUp()
                ? "case when v.zk_key is not null and m.zk_placeholder is null and not "
                        + dialect.anyDiffers(column.compared(), "u", "o") + " then " + own("o", column) + " else "
                        + own("u", column) + " end"
                : own("u", column);
        return "case when v.zk_supplier is not null then " + kept + " when v.zk_key is not null then "
                + own("o", column) + " else " + own("b", column) + " end";
    }

    private String own(String alias, DimensionColumn column) {
        return dialect.column(alias, column.name());
    }

    /** Whether an existing version gets another value. */
    String changes() {
        return "(v.zk_supplier is not null and " + dialect.anyDiffers(table.compared(Role.TYPE_1), "u", "o") + ")";
    }

    /**
     * A query of the rows that give their version another value than it had before them. A version that a row of this delivery
     * opens begins with that row's; one that only comes back, with that of the version beside it.
     */
    String overwriting(String sources) {
        return "select v.zk_supplier as zk_row\n" + sources + "\nleft join " + Scratch.JUDGED
                + " as t on t.zk_row = v.zk_row"
                + "\nwhere v.zk_supplier is not null and case\n  when v.zk_key is not null and m.zk_placeholder is null then "
                + differs("o")
                + "\n  when t.zk_outcome <> " + Outcome.UNCHANGED.sql()
                + " and (m.zk_current is null or v.zk_from >= m.zk_latest) then "
                + differs("r") + "\n  else " + differs("b") + " end";
    }

    private String differs(String alias) {
        return dialect.anyDiffers(table.compared(Role.TYPE_1), "u", alias);
    }
}
