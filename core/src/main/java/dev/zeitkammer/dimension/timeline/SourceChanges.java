package dev.zeitkammer.dimension.timeline;

import static dev.zeitkammer.dimension.table.Scratch.EXTENDED;
import static dev.zeitkammer.dimension.table.Scratch.MATCH;
import static dev.zeitkammer.dimension.table.Scratch.MEMBERS;
import static dev.zeitkammer.dimension.table.Scratch.MOVED;
import static dev.zeitkammer.dimension.table.Scratch.SOURCE_CHANGES;
import static dev.zeitkammer.dimension.table.Scratch.STOOD;
import static dev.zeitkammer.step.RowValidation.DUPLICATE_KEYS;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.dimension.current.CurrentComparison;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.VersionColumns;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.Stamp;
import java.util.List;
import java.util.stream.Collectors;

/** The queries that gather what was stated about members whose timeline is rebuilt: the first half of {@link RebuiltTimeline}. */
final class SourceChanges {

    /** When a staged row of a member holds. */
    static final String AT = "case when r.zk_row = m.zk_last_row then m.zk_newest else r.zk_effective end";

    private final DimensionTable table;
    private final Dialect dialect;
    private final String standing;
    private final Moments moments;
    private final VersionColumns columns;
    private final ReturnByExtract byExtract;

    /** @param standing the rows of the table as they stood before the load */
    SourceChanges(DimensionTable table, Dialect dialect, String standing, Stamp stamp) {
        this.table = table;
        this.dialect = dialect;
        this.standing = standing;
        this.moments = new Moments(table, dialect);
        this.columns = new VersionColumns(table, dialect);
        this.byExtract = new ReturnByExtract(table, dialect, standing, stamp);
    }

    String members() {
        String keys = dialect.columns(table.keys());
        return Sql.of("""
                with told as (
                  select zk_r.zk_row, zk_r.zk_effective, zk_r.zk_deletes, ${states} as zk_states, ${keys},
                    row_number() over (partition by ${keys}, ${states} order by zk_effective) as zk_nth,
                    row_number() over (partition by ${keys}, ${states} order by zk_effective desc) as zk_nth_last${rows_there}
                  from ${rows} as zk_r
                  where exists (select 1 from ${duplicate_keys} as k where ${k_is_r})
                    or exists (select 1 from ${match} as m where m.zk_row = zk_r.zk_row and m.zk_outcome = ${rebuilt})
                ), members as (
                  select row_number() over (order by min(zk_row)) as zk_member, ${keys},
                    max(case when zk_states and zk_nth = 1 then zk_row end) as zk_first_row,
                    max(case when zk_states and zk_nth_last = 1 then zk_row end) as zk_last_row,
                    max(case when zk_states then zk_effective end) as zk_newest${newest_there}
                  from told
                  group by ${keys}
                )${came_back}, known as (
                  select a.zk_member, ${own_keys}, a.zk_first_row, a.zk_last_row, a.zk_newest,
                    case when not ${is_placeholder} then ${c_surrogate} end as zk_current,
                    case when not ${is_placeholder} then ${c_latest} end as zk_latest,
                    case when ${is_placeholder} then ${c_surrogate} end as zk_placeholder${back}
                  from members as a
                  left join ${standing} as c on ${a_is_c} and ${c_is_current}${with_came_back}
                ), placed as (
                  select a.zk_member, ${own_keys}, a.zk_first_row, ${newest},
                    a.zk_current, a.zk_latest, a.zk_placeholder
                  from known as a
                )
                select a.*,
                  coalesce(a.zk_newest >= a.zk_latest, a.zk_last_row is not null) as zk_supplies
                from placed as a""")
                .with(ROWS, DUPLICATE_KEYS, MATCH)
                .with("keys", keys)
                .with("states", table.states("zk_r"))
                .with("rows_there", byExtract.rows(keys))
                .with("k_is_r", dialect.allEqual(table.keys(), "k", "zk_r"))
                .with("rebuilt", CurrentComparison.REBUILT)
                .with("newest_there", byExtract.extremes())
                .with("came_back", byExtract.cameBack())
                .with("own_keys", dialect.list(table.keys(), key -> dialect.column("a", key)))
                .with("is_placeholder", isPlaceholder())
                .with("c_surrogate", columns.own("c", Role.SURROGATE))
                .with("c_latest", columns.latest("c"))
                .with("back", byExtract.back())
                .with("standing", standing)
                .with("a_is_c", dialect.allEqual(table.keys(), "a", "c"))
                .with("c_is_current", columns.holds("c", Role.IS_CURRENT))
                .with("with_came_back", byExtract.withCameBack())
                .with("newest", byExtract.newest())
                .text();
    }

    /** All that stands of the members, so that nothing else needs to look through the whole table. */
    String stood() {
        return "select m.zk_member, v.*\nfrom " + MEMBERS + " as m\njoin " + standing + " as v on "
                + dialect.allEqual(table.keys(), "v", "m");
    }

    private String isPlaceholder() {
        return columns.isPlaceholder("c");
    }

    /**
     * A statement of values is staged, the start of a version, or its latest repetition (again). A deletion is staged (deleted)
     * by a row that also adds its member (added), or stands already (ended); where values are stated at its moment too, the member ends one unit later.
     */
    String statements() {
        List<String> versioned = table.compared(Role.TYPE_2);
        String ofVersions = listed(versioned, "v");
        String versions = "from " + MEMBERS + " as m join " + STOOD
                + " as v on v.zk_member = m.zk_member and m.zk_placeholder is null";
        return Sql.of("""
                with stated as (
                  select m.zk_member, ${at} as zk_at,
                    'staged' as zk_kind, r.zk_row, cast(null as bigint) as zk_key${of_row}
                  from ${members} as m join ${rows} as r on ${r_is_m}
                  where ${states}
                  union all
                  select m.zk_member, ${v_valid_from}, 'start', cast(null as bigint), ${v_surrogate}${of_versions}
                  ${versions}
                  union all
                  select m.zk_member, ${v_stated}, 'again', cast(null as bigint), ${v_surrogate}${of_versions}
                  ${versions}
                  where ${v_stated} > ${v_valid_from}
                )
                select zk_member, zk_at, zk_kind, zk_row, zk_key,
                  dense_rank() over (partition by zk_member order by ${value}) as zk_value
                from stated
                union all
                select m.zk_member, ${v_ended}, 'ended', cast(null as bigint), ${v_surrogate}, cast(null as bigint)
                ${versions}
                where ${v_is_deleted}
                union all
                select zk_m.zk_member,
                  case when exists (select 1 from stated as s where s.zk_member = zk_m.zk_member and s.zk_at = zk_r.zk_effective)
                    then ${next_moment} else zk_r.zk_effective end,
                  ${deleted}, zk_r.zk_row, cast(null as bigint), cast(null as bigint)
                from ${members} as zk_m join ${rows} as zk_r on ${deletion_is_m}
                where zk_r.zk_deletes""")
                .with(MEMBERS, ROWS)
                .with("at", AT)
                .with("states", table.states("r"))
                .with("of_row", listed(versioned, "r"))
                .with("r_is_m", dialect.allEqual(table.keys(), "r", "m"))
                .with(
                        "deleted",
                        table.definition().deletions().addsUnknown()
                                ? "case when zk_r.zk_adds then 'added' else 'deleted' end"
                                : "'deleted'")
                .with("deletion_is_m", dialect.allEqual(table.keys(), "zk_r", "zk_m"))
                .with("v_valid_from", columns.own("v", Role.VALID_FROM))
                .with("v_surrogate", columns.own("v", Role.SURROGATE))
                .with("of_versions", ofVersions)
                .with("versions", versions)
                .with("v_stated", columns.stated("v"))
                .with("value", versioned.isEmpty() ? "1" : dialect.columns(versioned))
                .with("v_ended", columns.ended("v"))
                .with("v_is_deleted", columns.holds("v", Role.IS_DELETED))
                .with("next_moment", moments.next("zk_r.zk_effective"))
                .text();
    }

    private String listed(List<String> names, String alias) {
        return names.stream().map(name -> ", " + dialect.column(alias, name)).collect(Collectors.joining());
    }

    /**
     * At one moment a deletion comes first, then values; of several deletions it is that of the row that adds its member. A standing deletion is forgotten where a staged one ends the same
     * version earlier; one before anything was stated is none.
     */
    static String moments(Relation statements) {
        return """
                with grouped as (
                  select zk_member, zk_at,
                    max(case when zk_kind = 'staged' then zk_row end) as zk_row,
                    max(case when zk_kind in ('start', 'again') then zk_key end) as zk_key,
                    max(case when zk_kind in ('start', 'again') then zk_kind end) as zk_kind,
                    max(case when zk_kind in ('start', 'again') then zk_value end) as zk_stood,
                    coalesce(
                      max(case when zk_kind = 'staged' then zk_value end),
                      max(case when zk_kind in ('start', 'again') then zk_value end)) as zk_value,
                    max(case when zk_kind = 'ended' then zk_key end) as zk_ended,
                    coalesce(
                      max(case when zk_kind = 'added' then zk_row end),
                      max(case when zk_kind = 'deleted' then zk_row end)) as zk_deleted
                  from %s
                  group by zk_member, zk_at
                ), endings as (
                  select e.zk_member, e.zk_at, max(l.zk_at) as zk_stated
                  from grouped as e
                  join grouped as l on l.zk_member = e.zk_member and l.zk_key = e.zk_ended
                  where e.zk_ended is not null
                  group by e.zk_member, e.zk_at
                ), forgotten as (
                  select e.zk_member, e.zk_at, min(d.zk_at) as zk_by
                  from endings as e
                  join grouped as d on d.zk_member = e.zk_member and d.zk_at > e.zk_stated and d.zk_at < e.zk_at
                  where d.zk_deleted is not null
                  group by e.zk_member, e.zk_at
                ), standing as (
                  select g.zk_member, g.zk_at, g.zk_row, g.zk_key, g.zk_kind, g.zk_stood, g.zk_value, g.zk_deleted,
                    case when f.zk_at is null then g.zk_ended end as zk_ended, f.zk_by as zk_forgotten_by,
                    count(g.zk_value) over (partition by g.zk_member order by g.zk_at
                      rows between unbounded preceding and 1 preceding) > 0 as zk_known_before
                  from grouped as g
                  left join forgotten as f on f.zk_member = g.zk_member and f.zk_at = g.zk_at
                ), settled as (
                  select zk_member, zk_at, zk_row, zk_key, zk_kind, zk_stood, zk_value, zk_ended, zk_forgotten_by,
                    case when zk_known_before then zk_deleted end as zk_deleted,
                    zk_ended is not null or (zk_deleted is not null and zk_known_before) as zk_ends
                  from standing
                )
                select * from settled
                where zk_value is not null or zk_ends or zk_forgotten_by is not null""".formatted(statements);
    }

    /** Staged deletions at the beginning of a version that begins earlier now and is stated again later. */
    String movedDeletions() {
        return """
                select s.zk_member, s.zk_row, r.zk_effective as zk_moment
                from %s as s
                join %s as r on r.zk_row = s.zk_row
                join %s as x on x.zk_member = s.zk_member and x.zk_began = r.zk_effective and x.zk_stated_again
                where s.zk_kind = 'deleted' and s.zk_at <> r.zk_effective
                  and not exists (select 1 from %s as o where o.zk_member = s.zk_member and o.zk_at = r.zk_effective
                    and o.zk_kind in ('staged', 'again'))""".formatted(SOURCE_CHANGES, ROWS, EXTENDED, SOURCE_CHANGES);
    }

    /** The statements, with moved deletions at their own moment. */
    static String moved() {
        return """
                select s.zk_member, coalesce(m.zk_moment, s.zk_at) as zk_at, s.zk_kind, s.zk_row, s.zk_key, s.zk_value
                from %s as s
                left join %s as m on m.zk_member = s.zk_member and m.zk_row = s.zk_row and s.zk_kind = 'deleted'""".formatted(SOURCE_CHANGES, MOVED);
    }
}
