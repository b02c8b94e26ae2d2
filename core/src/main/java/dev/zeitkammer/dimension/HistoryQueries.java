package dev.zeitkammer.dimension;

import static dev.zeitkammer.dimension.Scratch.EXTENDED;
import static dev.zeitkammer.dimension.Scratch.MATCH;
import static dev.zeitkammer.dimension.Scratch.MEMBERS;
import static dev.zeitkammer.dimension.Scratch.MOMENTS;
import static dev.zeitkammer.dimension.Scratch.MOVED;
import static dev.zeitkammer.dimension.Scratch.SHARED;
import static dev.zeitkammer.dimension.Scratch.STATEMENTS;
import static dev.zeitkammer.dimension.Scratch.TOLD;
import static dev.zeitkammer.step.Sieve.CROWDED;
import static dev.zeitkammer.step.Sieve.ROWS;

import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.step.Stamp;
import java.util.List;
import java.util.stream.Collectors;

/** The queries by which members' histories are told anew, in the order in which {@link HistorySteps} runs them. */
final class HistoryQueries {

    /** When a staged row of a member holds; a deleted member that a full extract delivers returns at the load date. */
    static final String AT = "case when r.zk_row = m.zk_last_row then m.zk_newest else r.zk_effective end";

    /** Moments without ends that are forgotten. */
    private static final String STANDING = "(select * from " + MOMENTS + " where zk_value is not null or zk_ends) as m";

    private final DimensionTable table;
    private final Dialect dialect;
    private final String standing;
    private final Stamp stamp;
    private final Moments moments;
    private final VersionColumns columns;

    /** @param standing the rows of the table as they stood before the load */
    HistoryQueries(DimensionTable table, Dialect dialect, String standing, Stamp stamp) {
        this.table = table;
        this.dialect = dialect;
        this.standing = standing;
        this.stamp = stamp;
        this.moments = new Moments(table, dialect);
        this.columns = new VersionColumns(table, dialect);
    }

    String members() {
        String keys = dialect.columns(table.keys());
        String returning = columns.own("c", Role.IS_DELETED) + " and a.zk_newest < " + columns.ended("c") + " and "
                + moments.literal(stamp.date()) + " >= " + columns.ended("c");
        String newest = table.definition().isDeliveredWhole()
                ? "case when " + returning + " then " + moments.literal(stamp.date()) + " else a.zk_newest end"
                : "a.zk_newest";
        return """
                with told as (
                  select r.zk_row, r.zk_effective, r.zk_deletes, %s,
                    row_number() over (partition by %s, zk_deletes order by zk_effective) as zk_nth,
                    row_number() over (partition by %s, zk_deletes order by zk_effective desc) as zk_nth_last
                  from %s as r
                  where exists (select 1 from %s as k where %s)
                    or exists (select 1 from %s as m where m.zk_row = r.zk_row and m.zk_outcome = %s)
                ), members as (
                  select row_number() over (order by min(zk_row)) as zk_member, %s,
                    max(case when not zk_deletes and zk_nth = 1 then zk_row end) as zk_first_row,
                    max(case when not zk_deletes and zk_nth_last = 1 then zk_row end) as zk_last_row,
                    max(case when not zk_deletes then zk_effective end) as zk_newest
                  from told
                  group by %s
                ), known as (
                  select a.zk_member, %s, a.zk_first_row, a.zk_last_row, %s as zk_newest,
                    case when not %s then %s end as zk_current,
                    case when not %s then %s end as zk_latest,
                    case when %s then %s end as zk_placeholder
                  from members as a
                  left join %s as c on %s and %s
                )
                select a.*,
                  coalesce(a.zk_newest >= a.zk_latest, a.zk_last_row is not null) as zk_supplies
                from known as a""".formatted(
                        keys,
                        keys,
                        keys,
                        ROWS,
                        CROWDED,
                        dialect.allEqual(table.keys(), "k", "r"),
                        MATCH,
                        DimensionSteps.RETOLD,
                        keys,
                        keys,
                        dialect.list(table.keys(), key -> dialect.column("a", key)),
                        newest,
                        isPlaceholder(),
                        columns.own("c", Role.SURROGATE),
                        isPlaceholder(),
                        columns.latest("c"),
                        isPlaceholder(),
                        columns.own("c", Role.SURROGATE),
                        standing,
                        dialect.allEqual(table.keys(), "a", "c"),
                        columns.own("c", Role.IS_CURRENT));
    }

    private String isPlaceholder() {
        return columns.isPlaceholder("c");
    }

    /**
     * A statement of values is staged, the start of a version, or its latest repetition (again). A deletion is staged (deleted)
     * or stands already (ended); where values are stated at its moment too, the member ends one unit later.
     */
    String statements() {
        List<String> versioned = table.compared(Role.TYPE_2);
        String ofVersions = listed(versioned, "v");
        String ofMember = dialect.allEqual(table.keys(), "v", "m");
        String versions =
                "from " + MEMBERS + " as m join " + standing + " as v on " + ofMember + " and m.zk_placeholder is null";
        return """
                with stated as (
                  select m.zk_member, %s as zk_at,
                    'staged' as zk_kind, r.zk_row, cast(null as bigint) as zk_key%s
                  from %s as m join %s as r on %s
                  where not r.zk_deletes
                  union all
                  select m.zk_member, %s, 'start', cast(null as bigint), %s%s
                  %s
                  union all
                  select m.zk_member, %s, 'again', cast(null as bigint), %s%s
                  %s
                  where %s > %s
                )
                select zk_member, zk_at, zk_kind, zk_row, zk_key,
                  dense_rank() over (partition by zk_member order by %s) as zk_value
                from stated
                union all
                select m.zk_member, %s, 'ended', cast(null as bigint), %s, cast(null as bigint)
                %s
                where %s
                union all
                select m.zk_member,
                  case when exists (select 1 from stated as s where s.zk_member = m.zk_member and s.zk_at = r.zk_effective)
                    then %s else r.zk_effective end,
                  'deleted', r.zk_row, cast(null as bigint), cast(null as bigint)
                from %s as m join %s as r on %s
                where r.zk_deletes""".formatted(
                        AT,
                        listed(versioned, "r"),
                        MEMBERS,
                        ROWS,
                        dialect.allEqual(table.keys(), "r", "m"),
                        columns.own("v", Role.VALID_FROM),
                        columns.own("v", Role.SURROGATE),
                        ofVersions,
                        versions,
                        columns.stated("v"),
                        columns.own("v", Role.SURROGATE),
                        ofVersions,
                        versions,
                        columns.stated("v"),
                        columns.own("v", Role.VALID_FROM),
                        versioned.isEmpty() ? "1" : dialect.columns(versioned),
                        columns.ended("v"),
                        columns.own("v", Role.SURROGATE),
                        versions,
                        columns.own("v", Role.IS_DELETED),
                        moments.next("r.zk_effective"),
                        MEMBERS,
                        ROWS,
                        dialect.allEqual(table.keys(), "r", "m"));
    }

    private String listed(List<String> names, String alias) {
        return names.stream().map(name -> ", " + dialect.column(alias, name)).collect(Collectors.joining());
    }

    /**
     * At one moment a deletion comes first, then values. A standing deletion is forgotten where a staged one ends the same
     * version earlier; one before anything was stated is none.
     */
    static String moments() {
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
                    max(case when zk_kind = 'deleted' then zk_row end) as zk_deleted
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
                where zk_value is not null or zk_ends or zk_forgotten_by is not null""".formatted(STATEMENTS);
    }

    /**
     * Adds to moments what holds just before the values of the moment (0: the member is deleted), what held before the moment,
     * and when the next old statement comes.
     */
    private static String surrounded(String relation) {
        return """
                select *,
                  case when zk_ends then 0 else zk_before end as zk_held
                from (
                  select *,
                    lag(coalesce(zk_value, 0)) over (partition by zk_member order by zk_at) as zk_before,
                    min(case when zk_kind is not null or zk_ended is not null then zk_at end) over (
                      partition by zk_member order by zk_at rows between 1 following and unbounded following) as zk_next_at
                  from %s
                ) as preceded""".formatted(relation).indent(2).stripTrailing();
    }

    /**
     * A version is extended by the first late row in the stretch before it that states its values. Where the statement that
     * begins the version before was replaced by just those values, and that version was itself extended (so that it no longer
     * begins there), the version begins there: extensions shift along a chain of versions. An end that stood in between parts
     * them, as long as no deletion before the row made it forgotten.
     */
    static String extended() {
        return """
                with surrounded as (
                %s
                ), candidates as (
                  select n.zk_member, n.zk_key,
                    min(case when s.zk_kind is null or s.zk_kind = 'again' then s.zk_at end) as zk_stretch,
                    min(case when s.zk_kind = 'start' then s.zk_at end) as zk_shift
                  from surrounded as s
                  join %s as n on n.zk_member = s.zk_member and n.zk_at = s.zk_next_at
                  where n.zk_kind = 'start' and n.zk_ended is null
                    and s.zk_value = n.zk_stood and s.zk_value is distinct from s.zk_held
                    and (s.zk_kind is null or s.zk_held = s.zk_stood)
                    and not exists (select 1 from %s as f where f.zk_member = s.zk_member
                      and f.zk_forgotten_by > s.zk_at and f.zk_at <= n.zk_at)
                  group by n.zk_member, n.zk_key
                ), placed as (
                  select m.zk_member, m.zk_key, m.zk_at as zk_began, c.zk_stretch, c.zk_shift,
                    a.zk_key is not null as zk_stated_again,
                    row_number() over (partition by m.zk_member order by m.zk_at) as zk_place
                  from %s as m
                  left join candidates as c on c.zk_member = m.zk_member and c.zk_key = m.zk_key
                  left join %s as a on a.zk_member = m.zk_member and a.zk_key = m.zk_key and a.zk_kind = 'again'
                  where m.zk_kind = 'start'
                ), reached as (
                  select *,
                    max(case when zk_stretch is not null then zk_place end) over chain
                      >= max(case when zk_shift is null then zk_place end) over chain as zk_is_extended
                  from placed
                  window chain as (partition by zk_member order by zk_place)
                ), begun as (
                  select *,
                    case when zk_shift is not null and lag(zk_is_extended) over chain then zk_shift else zk_stretch end
                      as zk_begins
                  from reached
                  window chain as (partition by zk_member order by zk_place)
                )
                select zk_member, zk_key, zk_began, zk_begins, zk_stated_again
                from begun
                where zk_is_extended""".formatted(surrounded(STANDING), MOMENTS, MOMENTS, MOMENTS, MOMENTS);
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
                    and o.zk_kind in ('staged', 'again'))""".formatted(STATEMENTS, ROWS, EXTENDED, STATEMENTS);
    }

    static String nothingMoved() {
        return "select m.zk_member, r.zk_row, r.zk_effective as zk_moment from " + MEMBERS + " as m, " + ROWS
                + " as r where false";
    }

    static String move() {
        return """
                update %s as s
                set zk_at = m.zk_moment
                from %s as m
                where m.zk_member = s.zk_member and m.zk_row = s.zk_row and s.zk_kind = 'deleted'""".formatted(STATEMENTS, MOVED);
    }

    /**
     * The beginning of an extended version is no longer one: it stays as its latest statement, or is forgotten where there is
     * a later one. A row inside a version that is stated again later, and says the same, is known already.
     */
    String told() {
        return """
                with settled as (
                  select m.zk_member, m.zk_at, m.zk_row, m.zk_ended, m.zk_deleted, m.zk_ends,
                    case when x.zk_key is null or not x.zk_stated_again or m.zk_row is not null then m.zk_value end as zk_value,
                    case when x.zk_key is null then m.zk_kind when not x.zk_stated_again then 'again' end as zk_kind,
                    case when x.zk_key is null or not x.zk_stated_again then m.zk_key end as zk_key,
                    case when x.zk_key is null or not x.zk_stated_again then m.zk_stood end as zk_stood,
                    b.zk_key as zk_extends, x.zk_begins as zk_since
                  from %s as m
                  left join %s as x on x.zk_member = m.zk_member and x.zk_began = m.zk_at
                  left join %s as b on b.zk_member = m.zk_member and b.zk_begins = m.zk_at
                  where (x.zk_key is null or not x.zk_stated_again or m.zk_row is not null or m.zk_ends)
                    and (m.zk_value is not null or m.zk_ends)
                ), surrounded as (
                %s
                ), judged as (
                  select s.*,
                    n.zk_kind = 'again' and n.zk_ended is null and n.zk_stood = s.zk_value as zk_returns,
                    n.zk_since is null or n.zk_since <= s.zk_at as zk_is_inside,
                    s.zk_ends and s.zk_before <> 0 as zk_closes,
                    s.zk_value is not null and (coalesce(s.zk_kind = 'start', false) or s.zk_extends is not null
                      or s.zk_value is distinct from s.zk_held
                      or coalesce(s.zk_row is not null and s.zk_stood <> s.zk_value, false)) as zk_begins
                  from surrounded as s
                  left join settled as n on n.zk_member = s.zk_member and n.zk_at = s.zk_next_at
                )
                select j.*,
                  j.zk_kind is null and j.zk_value = j.zk_held and j.zk_returns and j.zk_is_inside as zk_known,
                  case
                    when j.zk_row is null then null
                    when m.zk_current is null and j.zk_row = m.zk_first_row then
                      case when m.zk_placeholder is null then %s else %s end
                    when j.zk_extends is not null then %s
                    when j.zk_stood is not null and j.zk_stood <> j.zk_value then
                      case when j.zk_kind = 'again' and j.zk_held = j.zk_stood then %s else %s end
                    when j.zk_stood is null and j.zk_value is distinct from j.zk_held then
                      case when j.zk_returns then %s when j.zk_held = 0 then %s else %s end
                    when j.zk_row = m.zk_last_row and s.zk_overwrites then %s
                    else %s
                  end as zk_outcome,
                  case when j.zk_deleted is null then null when j.zk_closes and j.zk_ended is null then %s else %s end
                    as zk_deletion
                from judged as j
                join %s as m on m.zk_member = j.zk_member
                join %s as s on s.zk_member = j.zk_member""".formatted(
                        MOMENTS,
                        EXTENDED,
                        EXTENDED,
                        surrounded("settled"),
                        Outcome.NEW.sql(),
                        Outcome.COMPLETED.sql(),
                        Outcome.CORRECTED.sql(),
                        Outcome.VERSIONED.sql(),
                        Outcome.CORRECTED.sql(),
                        Outcome.CORRECTED.sql(),
                        Outcome.RETURNED.sql(),
                        Outcome.VERSIONED.sql(),
                        Outcome.OVERWRITTEN.sql(),
                        Outcome.UNCHANGED.sql(),
                        Outcome.CLOSED.sql(),
                        Outcome.UNCHANGED.sql(),
                        MEMBERS,
                        SHARED);
    }

    /**
     * A version ends where the next begins, or where the member ends before. A placeholder becomes the first one. The supplier
     * is the version's last row that is not late; the neighbour is the existing version before it, or the first one.
     */
    static String versions() {
        return """
                with numbered as (
                  select t.*, m.zk_placeholder,
                    t.zk_row is not null and (m.zk_current is null or t.zk_at >= m.zk_latest) as zk_is_new,
                    sum(case when t.zk_begins then 1 else 0 end) over (
                      partition by t.zk_member order by t.zk_at) as zk_version
                  from %s as t
                  join %s as m on m.zk_member = t.zk_member
                  where not coalesce(t.zk_known, false)
                ), supplied as (
                  select *,
                    max(case when zk_is_new then zk_at end) over (partition by zk_member, zk_version) as zk_new_at
                  from numbered
                ), runs as (
                  select zk_member, zk_version,
                    min(case when zk_begins then zk_at end) as zk_from,
                    max(case when zk_value is not null then zk_at end) as zk_stated,
                    max(case when zk_begins then coalesce(
                      zk_extends,
                      case when zk_kind = 'start' then zk_key end,
                      case when zk_version = 1 then zk_placeholder end) end) as zk_key,
                    max(case when zk_begins then zk_row end) as zk_row,
                    max(case when zk_begins then zk_key end) as zk_source,
                    max(case when zk_is_new and zk_at = zk_new_at then zk_row end) as zk_supplier,
                    max(case when zk_begins and zk_closes then 1 else 0 end) as zk_closes_before,
                    min(case when zk_value is null and zk_closes then zk_at end) as zk_closed
                  from supplied
                  group by zk_member, zk_version
                ), followed as (
                  select *,
                    lead(zk_from) over (partition by zk_member order by zk_version) as zk_next,
                    lead(zk_closes_before) over (partition by zk_member order by zk_version) as zk_next_closes,
                    coalesce(
                      max(case when zk_key is not null then zk_version end) over (
                        partition by zk_member order by zk_version rows between unbounded preceding and current row),
                      min(case when zk_key is not null then zk_version end) over (partition by zk_member)) as zk_beside
                  from runs
                )
                select f.*,
                  coalesce(f.zk_closed, f.zk_next) as zk_to,
                  f.zk_closed is not null or coalesce(f.zk_next_closes, 0) = 1 as zk_is_deleted,
                  b.zk_key as zk_neighbour
                from followed as f
                left join runs as b on b.zk_member = f.zk_member and b.zk_version = f.zk_beside""".formatted(TOLD, MEMBERS);
    }
}
