package dev.zeitkammer.lookup;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.step.RowValidation;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * How a lookup finds a member's version at a date, and how dates of one type are held against validity of the other (docs/rules.md,
 * "A fact").
 */
final class VersionAtDate {

    private static final String SINCE = "zk_since";
    private static final String UNTIL = "zk_until";
    private static final String BEFORE = "zk_before";

    private final LookupSql lookup;
    private final Lookup definition;
    private final Dialect dialect;

    VersionAtDate(LookupSql lookup) {
        this.lookup = lookup;
        this.definition = lookup.lookup();
        this.dialect = lookup.dialect();
    }

    /** Members that stand already, and those that the delivery brings. */
    String ofDelivery() {
        List<String> keys = keys();
        return "left join (select " + dialect.columns(keys) + " from "
                + lookup.warehouse().table(definition.dimension().table()) + " as v union select "
                + dialect.columns(keys) + " from "
                + RowValidation.ROWS + " as r where "
                + RowValidation.states(definition.dimension().deletions().addsUnknown(), "r") + ") as " + lookup.alias()
                + " on "
                + String.join(" and ", sameMember());
    }

    private List<String> sameMember() {
        List<String> conditions = new ArrayList<>();
        for (int position = 0; position < definition.match().size(); position++) {
            String column = definition.dimension().key().get(position).text();
            conditions.add(dialect.equal(
                    "d." + lookup.match(position), dialect.column(lookup.alias(), column), lookup.combines()));
        }
        if (lookup.combines()) {
            conditions.add(lookup.own(AuditColumn.ROW_ORIGIN) + " <> 'reserved'");
        }
        return conditions;
    }

    /**
     * The version that was valid at the date: the newest one that begins at or before it. Engines find it by a hash join only
     * where every further condition compares something of the row with something of the version, so that the stretch of each
     * version is made beside it.
     */
    String join() {
        List<String> conditions = sameMember();
        if (definition.asOf().isPresent()) {
            conditions.add(judged() + " >= " + lookup.alias() + "." + SINCE);
            conditions.add(judged() + " < " + lookup.alias() + "." + UNTIL);
            return "left join " + stretches() + " as " + lookup.alias() + " on " + String.join(" and ", conditions);
        }
        if (lookup.hasVersions()) {
            conditions.add(lookup.holds(AuditColumn.IS_CURRENT));
        }
        return "left join " + lookup.warehouse().table(definition.dimension().table()) + " as " + lookup.alias()
                + " on " + String.join(" and ", conditions);
    }

    /**
     * The versions of the dimension, each with the stretch of time in which a date finds it. The first version holds since
     * always, the current one for good; one that was deleted is found until its member comes back.
     */
    private String stretches() {
        String table = lookup.warehouse().table(definition.dimension().table());
        String since = "case when v." + quoted(AuditColumn.VERSION) + " = 1 then "
                + dialect.always(lookup.momentType()) + " else v." + quoted(AuditColumn.VALID_FROM) + " end as "
                + SINCE;
        String ended = "v." + quoted(AuditColumn.VALID_TO);
        String until = lookup.conventions().inclusive() ? dialect.nextMoment(ended, lookup.momentType()) : ended;
        String forGood = "case when " + lookup.conventions().holds(dialect, "v", AuditColumn.IS_CURRENT) + " then "
                + dialect.forever(lookup.momentType());
        if (!lookup.returns()) {
            return "(select v.*, " + since + ", " + forGood + " else " + until + " end as " + UNTIL + " from " + table
                    + " as v)";
        }
        List<String> keys = keys();
        return "(select v.*, " + since + ", " + forGood + " else coalesce(n." + quoted(AuditColumn.VALID_FROM) + ", "
                + until + ") end as " + UNTIL + " from " + table + " as v left join (select "
                + dialect.columns(keys) + ", " + quoted(AuditColumn.VALID_FROM) + ", "
                + quoted(AuditColumn.VERSION) + " - 1 as " + BEFORE + " from " + table + " as b) as n on "
                + dialect.allEqual(keys, "n", "v") + " and n." + BEFORE + " = v." + quoted(AuditColumn.VERSION)
                + ")";
    }

    private String quoted(AuditColumn housekeeping) {
        return dialect.quote(lookup.conventions().column(housekeeping));
    }

    /**
     * A query of a member that rows look for, of which a version stands twice or two are current.
     */
    String unsound(String rows) {
        List<String> keys = keys();
        String looked = IntStream.range(0, keys.size())
                .mapToObj(position -> dialect.equal(
                        "d." + lookup.match(position),
                        dialect.column(lookup.alias(), keys.get(position)),
                        lookup.combines()))
                .collect(Collectors.joining(" and "));
        return unsound("exists (select 1 from " + rows + " as d where " + looked + ")", keys);
    }

    /** The same of any member, whether rows look for it or not; reserved rows, which have no business key, are none. */
    String unsound() {
        String isMember = lookup.combines()
                ? "1 = 1"
                : keys().stream()
                        .map(key -> dialect.column(lookup.alias(), key) + " is not null")
                        .collect(Collectors.joining(" and "));
        return unsound(isMember, keys());
    }

    private List<String> keys() {
        return definition.dimension().key().stream().map(Word::text).toList();
    }

    private String unsound(String isLookedFor, List<String> keys) {
        String shown = keys.stream()
                .map(key -> "coalesce(" + dialect.asText(dialect.column(lookup.alias(), key)) + ", '')")
                .collect(Collectors.joining(" || ', ' || "));
        String twice = !lookup.hasVersions()
                ? "count(*) > 1"
                : definition.asOf().isPresent()
                        ? "count(*) > count(distinct " + lookup.own(AuditColumn.VERSION) + ") or count(case when "
                                + lookup.holds(AuditColumn.IS_CURRENT) + " then 1 end) > 1"
                        : "count(case when " + lookup.holds(AuditColumn.IS_CURRENT) + " then 1 end) > 1";
        return Sql.of("""
                select min(${shown}), count(*)
                from ${dimension} as ${alias}
                where ${is_looked_for}${not_reserved}
                group by ${business_key}
                having ${twice}
                limit 1""")
                .with("shown", shown)
                .with(
                        "dimension",
                        lookup.warehouse().table(definition.dimension().table()))
                .with("alias", lookup.alias())
                .with("is_looked_for", isLookedFor)
                .with(
                        "not_reserved",
                        lookup.combines() ? " and " + lookup.own(AuditColumn.ROW_ORIGIN) + " <> 'reserved'" : "")
                .with(
                        "business_key",
                        keys.stream()
                                .map(key -> dialect.column(lookup.alias(), key))
                                .collect(Collectors.joining(", ")))
                .with("twice", twice)
                .text();
    }

    /** The moment to judge at, in the type of the dimension's versions: of a date against timestamps, the end of that day. */
    String judged() {
        return endOfDay() ? dialect.momentBefore(nextDay()) : moment();
    }

    /** The moment to judge at: a timestamp against dates is its date. */
    private String moment() {
        boolean cut = lookup.asOfType().equals(SqlType.TIMESTAMP)
                && lookup.momentType().equals(SqlType.DATE);
        return cut ? dialect.cast("d." + lookup.asOf(), SqlType.DATE) : "d." + lookup.asOf();
    }

    /** The version has begun: for a date against timestamps, by the end of that day. */
    String since() {
        return endOfDay()
                ? lookup.own(AuditColumn.VALID_FROM) + " < " + nextDay()
                : lookup.own(AuditColumn.VALID_FROM) + " <= " + moment();
    }

    /** The version has not yet ended. */
    String before(String validTo) {
        if (endOfDay()) {
            return validTo + " >= " + nextDay();
        }
        return moment() + (lookup.conventions().inclusive() ? " <= " : " < ") + validTo;
    }

    private boolean endOfDay() {
        return lookup.asOfType().equals(SqlType.DATE) && lookup.momentType().equals(SqlType.TIMESTAMP);
    }

    private String nextDay() {
        return dialect.cast(dialect.nextMoment("d." + lookup.asOf(), SqlType.DATE), SqlType.TIMESTAMP);
    }
}
