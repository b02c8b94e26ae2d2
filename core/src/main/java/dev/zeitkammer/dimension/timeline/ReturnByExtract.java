package dev.zeitkammer.dimension.timeline;

import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.VersionColumns;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.staging.WaitingRow;
import dev.zeitkammer.step.Stamp;

/**
 * Full extracts bring deleted members back, though what they say of them may be older than the deletion. A member's newest row in
 * the extract then holds from the load date; of a member that came back, from the moment of its return. So the same extract says
 * the same once more. A row that waited is not in the extract: it holds at its own moment, and brings nobody back.
 *
 * <p>Parts of the query of members in {@link SourceChanges}; nothing, where deliveries are not full extracts.
 */
final class ReturnByExtract {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String standing;
    private final Stamp stamp;
    private final VersionColumns columns;
    private final boolean isWhole;

    ReturnByExtract(DimensionTable table, Dialect dialect, String standing, Stamp stamp) {
        this.table = table;
        this.dialect = dialect;
        this.standing = standing;
        this.stamp = stamp;
        this.columns = new VersionColumns(table, dialect);
        this.isWhole = table.definition().isDeliveredWhole();
    }

    /** Of a staged row, alias {@code zk_r}: whether the extract has it, and its place from the newest of its member there. */
    String rows(String keys) {
        return isWhole
                ? Sql.of("""
                        ,
                            ${is_there} as zk_is_there,
                            row_number() over (partition by ${keys}, zk_deletes, ${is_there} order by zk_effective desc)
                              as zk_nth_there""")
                        .with("is_there", "not " + WaitingRow.hasWaited("zk_r.zk_row"))
                        .with("keys", keys)
                        .text()
                : "";
    }

    /** Of a member: its newest row in the extract, when that holds by itself, and when the extract says that the member ended. */
    String extremes() {
        return isWhole ? """
                ,
                    max(case when zk_is_there and not zk_deletes and zk_nth_there = 1 then zk_row end) as zk_row_there,
                    max(case when zk_is_there and not zk_deletes then zk_effective end) as zk_newest_there,
                    max(case when zk_deletes then zk_effective end) as zk_gone""" : "";
    }

    /** When members last were deleted and came back. */
    String cameBack() {
        return isWhole
                ? Sql.of("""
                        , came_back as (
                          select zk_member, max(zk_ended) as zk_left, max(case when zk_ended is not null then zk_from end) as zk_since
                          from (
                            select a.zk_member, ${v_valid_from} as zk_from,
                              lag(case when ${v_is_deleted} then ${v_ended} end) over (partition by a.zk_member order by ${v_valid_from})
                                as zk_ended
                            from members as a
                            join ${standing} as v on ${v_is_a}
                          ) as followed
                          group by zk_member
                        )""")
                        .with("v_valid_from", columns.own("v", Role.VALID_FROM))
                        .with("v_is_deleted", columns.holds("v", Role.IS_DELETED))
                        .with("v_ended", columns.ended("v"))
                        .with("standing", standing)
                        .with("v_is_a", dialect.allEqual(table.keys(), "v", "a"))
                        .text()
                : "";
    }

    String withCameBack() {
        return isWhole ? "\n  left join came_back as b on b.zk_member = a.zk_member" : "";
    }

    /** Of a member, with its current version as c: the row that brings it back, or did, and from when that holds. */
    String back() {
        return isWhole
                ? Sql.of("""
                        ,
                            a.zk_row_there,
                            case
                              when coalesce(a.zk_gone >= a.zk_newest_there, a.zk_newest_there is null) then null
                              when ${is_deleted} and a.zk_newest < ${ended} and ${load_date} >= ${ended} then ${load_date}
                              when not ${is_deleted} and a.zk_newest < b.zk_left and ${load_date} >= b.zk_since then b.zk_since
                            end as zk_back""")
                        .with("is_deleted", columns.holds("c", Role.IS_DELETED))
                        .with("ended", columns.ended("c"))
                        .with("load_date", new Moments(table, dialect).literal(stamp.date()))
                        .text()
                : "";
    }

    /** The row that holds last of a member, alias {@code a}, and from when. */
    String newest() {
        return isWhole ? """
                case when a.zk_back is null then a.zk_last_row else a.zk_row_there end as zk_last_row,
                    coalesce(a.zk_back, a.zk_newest) as zk_newest""" : "a.zk_last_row, a.zk_newest";
    }
}
