package dev.zeitkammer.dimension.current;

import static dev.zeitkammer.dimension.table.Scratch.KEYS;
import static dev.zeitkammer.dimension.table.Scratch.MATCH;

import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.RowImage;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.Stamp;

/**
 * What becomes of members with one staged row that is not late: the versions that they open, and the rows that stand and change.
 * The others go through {@link dev.zeitkammer.dimension.timeline.RebuiltTimeline}.
 */
public final class CurrentChanges {

    private final DimensionTable table;
    private final Dialect dialect;
    private final StoredLookups lookedUp;
    private final Moments moments;
    private final Stamp stamp;
    private final OverwrittenValues overwritten;

    public CurrentChanges(DimensionLoading loading, OverwrittenValues overwritten) {
        this.table = loading.table();
        this.dialect = loading.dialect();
        this.lookedUp = loading.lookups();
        this.moments = loading.moments();
        this.stamp = loading.stamp();
        this.overwritten = overwritten;
    }

    /**
     * A query of the change table's rows that follow. A row that opens a version is there twice: the new version, and the one that ends.
     */
    public String sql() {
        String doubled = """
                cross join (select true as zk_opened union all select false) as h
                left join %s as k on k.zk_row = m.zk_row
                """.formatted(KEYS);
        return Sql.of("""
                select case${inserted}
                    when m.zk_outcome = ${unchanged} then 'restate'
                    when m.zk_outcome = ${overwritten} then 'overwrite'
                    when m.zk_outcome = ${versioned} and not m.zk_overwrites then 'close'
                    else 'update'
                  end as zk_change, m.zk_row,
                  ${image}
                from ${match} as m
                join ${delivered} as r on r.zk_row = m.zk_row
                join ${standing} as c on ${surrogate} = m.zk_key
                ${doubled}where m.zk_outcome not in (${rebuilt}, ${new}) and ${stands}""")
                .with(MATCH)
                .with("inserted", table.hasHistory() ? "\n    when h.zk_opened then 'insert'" : "")
                .with("doubled", table.hasHistory() ? doubled : "")
                .with(
                        "stands",
                        table.hasHistory() ? either("m.zk_outcome = " + Outcome.VERSIONED.sql(), says()) : says())
                .with("image", (table.hasHistory() ? version().or(update(), "h.zk_opened") : update()).selectList())
                .with("unchanged", Outcome.UNCHANGED.sql())
                .with("overwritten", Outcome.OVERWRITTEN.sql())
                .with("versioned", Outcome.VERSIONED.sql())
                .with("delivered", lookedUp.rows())
                .with("standing", lookedUp.standing())
                .with("surrogate", current(Role.SURROGATE))
                .with("rebuilt", CurrentComparison.REBUILT)
                .with("new", Outcome.NEW.sql())
                .text();
    }

    private static String either(String opens, String stands) {
        return "case when h.zk_opened then " + opens + " else " + stands + " end";
    }

    /** Whether a row says something of the version that stands. */
    private static String says() {
        return "not (r.zk_deletes and m.zk_outcome = " + Outcome.UNCHANGED.sql() + ")";
    }

    private String current(Role role) {
        return dialect.column("c", table.name(role));
    }

    private RowImage version() {
        return overwritten
                .in(RowImage.inserted(table, dialect, moments, stamp), "")
                .with(Role.SURROGATE, "k.zk_new_key")
                .from(Role.MEMBER_KEY, "c")
                .from(Role.KEY, "r")
                .from(Role.TYPE_0, "c")
                .from(Role.TYPE_2, "r")
                .with(Role.VALID_FROM, "r.zk_effective")
                .with(Role.LAST_STATED, "r.zk_effective")
                .with(Role.VERSION, current(Role.VERSION) + " + 1");
    }

    private RowImage update() {
        boolean ends = !table.hasHistory() && table.mayHaveEnded();
        String keepsAll = ends ? "m.zk_outcome = " + Outcome.CLOSED.sql() : "";
        RowImage images = overwritten.in(RowImage.existing(table, dialect, "c").touched(stamp), keepsAll);
        if (table.definition().overwritesCurrentOnly() && table.hasHistory()) {
            images.withEach(
                    Role.TYPE_1,
                    column -> when(Outcome.VERSIONED, dialect.column("c", column.name()), overwritten.ofType1(column)));
        }
        images.withEach(
                        Role.TYPE_0,
                        column -> when(
                                Outcome.COMPLETED,
                                dialect.column("r", column.name()),
                                dialect.column("c", column.name())))
                .with(
                        Role.ROW_ORIGIN,
                        when(Outcome.COMPLETED, dialect.text(RowOrigin.SOURCE.word()), current(Role.ROW_ORIGIN)));
        if (ends) {
            images.with(
                    Role.IS_DELETED,
                    table.definition().deletions().addsUnknown()
                            ? "(" + keepsAll + " or (m.zk_outcome = " + Outcome.COMPLETED.sql() + " and r.zk_deletes))"
                            : keepsAll);
        }
        if (table.hasHistory()) {
            images.withEach(
                            Role.TYPE_2,
                            column -> dialect.either(
                                    "m.zk_outcome in (" + Outcome.CORRECTED.sql() + ", " + Outcome.COMPLETED.sql()
                                            + ")",
                                    dialect.column("r", column.name()),
                                    dialect.column("c", column.name())))
                    .with(Role.VALID_FROM, when(Outcome.COMPLETED, "r.zk_effective", current(Role.VALID_FROM)))
                    .with(
                            Role.VALID_TO,
                            when(Outcome.VERSIONED, moments.endBefore("r.zk_effective"), current(Role.VALID_TO)))
                    .with(Role.IS_CURRENT, "m.zk_outcome <> " + Outcome.VERSIONED.sql());
        }
        if (table.hasHistory() && table.hasEffective()) {
            images.with(Role.LAST_STATED, when(Outcome.VERSIONED, current(Role.LAST_STATED), "r.zk_effective"));
        }
        return images;
    }

    private String when(Outcome outcome, String then, String otherwise) {
        return dialect.either("m.zk_outcome = " + outcome.sql(), then, otherwise);
    }
}
