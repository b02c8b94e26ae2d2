package dev.zeitkammer.dimension.members;

import static dev.zeitkammer.dimension.table.Scratch.ADDED;
import static dev.zeitkammer.step.RowValidation.DELIVERY;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.dimension.table.Scratch;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Step;
import java.util.List;

/**
 * Members of whom nothing was known before the row that ends them, where a definition keeps them all the same ({@code unknown:
 * add}): that row states values like any other, and ends its member. With history it is the member's first row; without, the
 * latest one, since no other counts.
 */
public final class EndedMembers {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;

    public EndedMembers(DimensionTable table, Dialect dialect, String target) {
        this.table = table;
        this.dialect = dialect;
        this.target = target;
    }

    /** Finds them, and tells of each row whether it is such a one. */
    public List<Step> steps() {
        String order = table.hasHistory()
                ? "zk_d.zk_effective, zk_d.zk_deletes"
                : "zk_d.zk_effective desc, zk_d.zk_deletes desc";
        String added = Sql.of("""
                select zk_told.zk_row
                from (
                  select zk_d.*, row_number() over (partition by ${keys} order by ${order}) as zk_nth
                  from (
                  ${rows}
                  ) as zk_d
                ) as zk_told
                left join ${target} as zk_c on ${is_known}
                where zk_told.zk_nth = 1 and zk_told.zk_deletes and ${known_key} is null""")
                .with("keys", dialect.list(table.keys(), key -> dialect.column("zk_d", key)))
                .with("order", order)
                .with("rows", RowValidation.takingRows(dialect))
                .with("target", target)
                .with("known_key", dialect.column("zk_c", table.name(Role.SURROGATE)))
                .with(
                        "is_known",
                        dialect.allEqual(table.keys(), "zk_c", "zk_told") + " and "
                                + dialect.column("zk_c", table.name(Role.ROW_ORIGIN)) + " <> "
                                + dialect.text(RowOrigin.PLACEHOLDER.word()))
                .text();
        return List.of(
                new Step.Keep(
                        Step.caption(
                                "ended before they were known",
                                "Members whose first row ends them are kept as ended ones."),
                        ADDED,
                        added),
                new Step.Name(
                        Step.caption("rows", "The rows that take part."),
                        ROWS,
                        "select d.*, " + Scratch.adds("d.zk_row") + " as zk_adds\nfrom " + DELIVERY + " as d\nwhere "
                                + dialect.lacks(RowValidation.OUT.name(), "d")));
    }
}
