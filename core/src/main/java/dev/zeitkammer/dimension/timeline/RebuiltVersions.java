package dev.zeitkammer.dimension.timeline;

import static dev.zeitkammer.dimension.table.Scratch.EXTENDED;
import static dev.zeitkammer.dimension.table.Scratch.JUDGED;
import static dev.zeitkammer.dimension.table.Scratch.MEMBERS;
import static dev.zeitkammer.dimension.table.Scratch.MOMENTS;
import static dev.zeitkammer.dimension.table.Scratch.SHARED;

import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;

/** The queries that make versions of what was stated: the second half of {@link RebuiltTimeline}. */
final class RebuiltVersions {

    /** Moments without ends that are forgotten. */
    private static final String STANDING = "(select * from " + MOMENTS + " where zk_value is not null or zk_ends) as m";

    private RebuiltVersions() {}

    /**
     * Adds to moments what holds just before the values of the moment (0: the member is deleted), what held before the moment,
     * and when the next old statement comes.
     */
    private static String surrounded(String relation) {
        return SqlText.indented("""
                select *,
                  case when zk_ends then 0 else zk_before end as zk_held
                from (
                  select *,
                    lag(coalesce(zk_value, 0)) over (partition by zk_member order by zk_at) as zk_before,
                    min(case when zk_kind is not null or zk_ended is not null then zk_at end) over (
                      partition by zk_member order by zk_at rows between 1 following and unbounded following) as zk_next_at
                  from %s
                ) as preceded""".formatted(relation), 2);
    }

    /**
     * A version is extended by the first late row in the stretch before it that states its values. Where the statement that
     * begins the version before was replaced by just those values, and that version was itself extended (so that it no longer
     * begins there), the version begins there: extensions shift along a chain of versions. An end that stood in between parts
     * them, as long as no deletion before the row made it forgotten.
     */
    static String extended(Dialect dialect) {
        return Sql.of("""
                with surrounded as (
                ${surrounded}
                ), candidates as (
                  select n.zk_member, n.zk_key,
                    min(case when s.zk_kind is null or s.zk_kind = 'again' then s.zk_at end) as zk_stretch,
                    min(case when s.zk_kind = 'start' then s.zk_at end) as zk_shift
                  from surrounded as s
                  join ${moments} as n on n.zk_member = s.zk_member and n.zk_at = s.zk_next_at
                  where n.zk_kind = 'start' and n.zk_ended is null
                    and s.zk_value = n.zk_stood and ${departs}
                    and (s.zk_kind is null or s.zk_held = s.zk_stood)
                    and not exists (select 1 from ${moments} as f where f.zk_member = s.zk_member
                      and f.zk_forgotten_by > s.zk_at and f.zk_at <= n.zk_at)
                  group by n.zk_member, n.zk_key
                ), placed as (
                  select m.zk_member, m.zk_key, m.zk_at as zk_began, c.zk_stretch, c.zk_shift,
                    a.zk_key is not null as zk_stated_again,
                    row_number() over (partition by m.zk_member order by m.zk_at) as zk_place
                  from ${moments} as m
                  left join candidates as c on c.zk_member = m.zk_member and c.zk_key = m.zk_key
                  left join ${moments} as a on a.zk_member = m.zk_member and a.zk_key = m.zk_key and a.zk_kind = 'again'
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
                where zk_is_extended""")
                .with(MOMENTS)
                .with("surrounded", surrounded(STANDING))
                .with("departs", dialect.differs("s.zk_value", "s.zk_held"))
                .text();
    }

    /**
     * The beginning of an extended version is no longer one: it stays as its latest statement, or is forgotten where there is
     * a later one. A row inside a version that is stated again later, and says the same, is known already.
     */
    static String judged(Dialect dialect) {
        return Sql.of("""
                with settled as (
                  select m.zk_member, m.zk_at, m.zk_row, m.zk_ended, m.zk_deleted, m.zk_ends,
                    case when x.zk_key is null or not x.zk_stated_again or m.zk_row is not null then m.zk_value end as zk_value,
                    case when x.zk_key is null then m.zk_kind when not x.zk_stated_again then 'again' end as zk_kind,
                    case when x.zk_key is null or not x.zk_stated_again then m.zk_key end as zk_key,
                    case when x.zk_key is null or not x.zk_stated_again then m.zk_stood end as zk_stood,
                    b.zk_key as zk_extends, x.zk_begins as zk_since
                  from ${moments} as m
                  left join ${extended} as x on x.zk_member = m.zk_member and x.zk_began = m.zk_at
                  left join ${extended} as b on b.zk_member = m.zk_member and b.zk_begins = m.zk_at
                  where (x.zk_key is null or not x.zk_stated_again or m.zk_row is not null or m.zk_ends)
                    and (m.zk_value is not null or m.zk_ends)
                ), surrounded as (
                ${surrounded}
                ), judged as (
                  select s.*,
                    n.zk_kind = 'again' and n.zk_ended is null and n.zk_stood = s.zk_value as zk_returns,
                    n.zk_since is null or n.zk_since <= s.zk_at as zk_is_inside,
                    s.zk_ends and s.zk_before <> 0 as zk_closes,
                    s.zk_value is not null and (coalesce(s.zk_kind = 'start', false) or s.zk_extends is not null
                      or ${departs}
                      or coalesce(s.zk_row is not null and s.zk_stood <> s.zk_value, false)) as zk_begins
                  from surrounded as s
                  left join settled as n on n.zk_member = s.zk_member and n.zk_at = s.zk_next_at
                )
                select j.*,
                  j.zk_kind is null and j.zk_value = j.zk_held and j.zk_returns and j.zk_is_inside as zk_known,
                  case
                    when j.zk_row is null then null
                    when m.zk_current is null and j.zk_row = m.zk_first_row then
                      case when m.zk_placeholder is null then ${new} else ${completed} end
                    when j.zk_extends is not null then ${corrected}
                    when j.zk_stood is not null and j.zk_stood <> j.zk_value then
                      case when j.zk_kind = 'again' and j.zk_held = j.zk_stood then ${versioned} else ${corrected} end
                    when j.zk_stood is null and ${j_departs} then
                      case when j.zk_returns and j.zk_is_inside then ${corrected} when j.zk_held = 0 then ${returned} else ${versioned} end
                    when j.zk_row = m.zk_last_row and s.zk_overwrites then ${overwritten}
                    else ${unchanged}
                  end as zk_outcome,
                  case when j.zk_deleted is null then null when j.zk_closes and j.zk_ended is null then ${closed} else ${unchanged} end
                    as zk_deletion
                from judged as j
                join ${members} as m on m.zk_member = j.zk_member
                join ${shared} as s on s.zk_member = j.zk_member""")
                .with(MOMENTS, EXTENDED, MEMBERS, SHARED)
                .with("surrounded", surrounded("settled"))
                .with("new", Outcome.NEW.sql())
                .with("completed", Outcome.COMPLETED.sql())
                .with("corrected", Outcome.CORRECTED.sql())
                .with("versioned", Outcome.VERSIONED.sql())
                .with("returned", Outcome.RETURNED.sql())
                .with("overwritten", Outcome.OVERWRITTEN.sql())
                .with("unchanged", Outcome.UNCHANGED.sql())
                .with("closed", Outcome.CLOSED.sql())
                .with("departs", dialect.differs("s.zk_value", "s.zk_held"))
                .with("j_departs", dialect.differs("j.zk_value", "j.zk_held"))
                .text();
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
                left join runs as b on b.zk_member = f.zk_member and b.zk_version = f.zk_beside""".formatted(JUDGED, MEMBERS);
    }
}
