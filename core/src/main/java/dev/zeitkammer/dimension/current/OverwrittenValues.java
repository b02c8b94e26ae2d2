package dev.zeitkammer.dimension.current;

import static dev.zeitkammer.dimension.table.Scratch.MATCH;

import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.RowImage;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.Stamp;
import java.util.List;

/**
 * Values of types 1 and 3 that a row writes over those that stand, and the previous value of type 3 (docs/rules.md, "Types"); of
 * members whose timeline is rebuilt, {@link dev.zeitkammer.dimension.timeline.SharedValues} has them.
 */
public final class OverwrittenValues {

    private final DimensionTable table;
    private final Dialect dialect;
    private final StoredLookups lookedUp;
    private final Stamp stamp;

    public OverwrittenValues(DimensionLoading loading) {
        this.table = loading.table();
        this.dialect = loading.dialect();
        this.lookedUp = loading.lookups();
        this.stamp = loading.stamp();
    }

    /** Whether something is written on every version of a member, and not on the current one only. */
    public boolean reachOlderVersions() {
        return table.hasHistory() && !everywhere().isEmpty();
    }

    /** What is written on every version of a member when it changes. */
    private List<String> everywhere() {
        return table.definition().overwritesCurrentOnly()
                ? table.compared(Role.TYPE_3)
                : table.compared(Role.TYPE_1, Role.TYPE_3);
    }

    /** What the row makes of the values that are overwritten, unless a condition keeps them; an empty one never does. */
    RowImage in(RowImage images, String unless) {
        return images.withEach(Role.TYPE_1, column -> kept(column, ofType1(column), unless))
                .withEach(Role.TYPE_3, column -> kept(column, dialect.column("r", column.name()), unless))
                .withEach(Role.PREVIOUS, column -> kept(column, previous(column), unless));
    }

    private String kept(DimensionColumn column, String value, String unless) {
        return unless.isEmpty() ? value : dialect.either(unless, dialect.column("c", column.name()), value);
    }

    /** A value of type 1 as the row states it. A key stays while it points at a version of the same member. */
    String ofType1(DimensionColumn column) {
        String stated = dialect.column("r", column.name());
        return column.isLookedUp()
                ? "case when " + dialect.anyDiffers(column.compared(), "r", "c") + " then " + stated + " else "
                        + dialect.column("c", column.name()) + " end"
                : stated;
    }

    /** The value that a column of type 3 had before it last changed. */
    private String previous(DimensionColumn column) {
        String followed = table.followed(column).name();
        return "case when " + current(Role.SURROGATE) + " is not null and not " + isPlaceholder() + " and "
                + dialect.anyDiffers(List.of(followed), "r", "c") + " then " + dialect.column("c", followed) + " else "
                + dialect.column("c", column.name()) + " end";
    }

    private String isPlaceholder() {
        return current(Role.ROW_ORIGIN) + " = " + dialect.text(RowOrigin.PLACEHOLDER.word());
    }

    private String current(Role role) {
        return dialect.column("c", table.name(role));
    }

    /** A query of the older versions that get them: values of types 1 and 3 are written on every version of a member. */
    public String ofOlderVersions() {
        RowImage images = in(RowImage.existing(table, dialect, "v").touched(stamp), "");
        if (table.definition().overwritesCurrentOnly()) {
            images.from(Role.TYPE_1, "v");
        }
        return Sql.of("""
                select 'overwrite', cast(null as bigint),
                  ${image}
                from ${match} as m
                join ${delivered} as r on r.zk_row = m.zk_row
                join ${standing} as c on ${surrogate} = m.zk_key
                join ${standing} as v on ${r_is_v}
                where m.zk_overwrites and m.zk_outcome <> ${rebuilt}
                  and not ${v_is_current}
                  and ${differs}""")
                .with(MATCH)
                .with("image", images.selectList())
                .with("delivered", lookedUp.rows())
                .with("standing", lookedUp.standing())
                .with("surrogate", current(Role.SURROGATE))
                .with("r_is_v", dialect.allEqual(table.keys(), "r", "v"))
                .with("rebuilt", CurrentComparison.REBUILT)
                .with("v_is_current", table.holds(dialect, "v", Role.IS_CURRENT))
                .with("differs", dialect.anyDiffers(everywhere(), "r", "v"))
                .text();
    }
}
