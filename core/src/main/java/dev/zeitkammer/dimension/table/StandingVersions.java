package dev.zeitkammer.dimension.table;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Step;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/** The versions of a dimension that others made: what its rows do not say, and what must hold before they are gone on with. */
public final class StandingVersions {

    private final Dimension definition;
    private final Conventions conventions;
    private final Dialect dialect;
    private final String target;
    private final List<String> keys;

    public StandingVersions(Dimension definition, Warehouse warehouse) {
        this.definition = definition;
        this.conventions = definition.conventions();
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(definition.table());
        this.keys = definition.key().stream().map(Word::text).toList();
    }

    /**
     * Audit columns that are added to versions that stand are filled from when these begin and end: their number, which of them
     * is the newest, and whether the member was deleted behind it.
     */
    public Alignment completing(Alignment alignment) {
        boolean stand = conventions.standing()
                && definition.hasHistory()
                && !alignment.creates()
                && !isAdded(alignment, AuditColumn.VALID_FROM)
                && !isAdded(alignment, AuditColumn.VALID_TO);
        Map<String, String> set = new LinkedHashMap<>();
        if (stand) {
            told(alignment, AuditColumn.VERSION, "c.zk_version", set);
            told(alignment, AuditColumn.IS_CURRENT, flag(AuditColumn.IS_CURRENT, "c.zk_next is null"), set);
            told(alignment, AuditColumn.IS_DELETED, flag(AuditColumn.IS_DELETED, "c.zk_ended"), set);
        }
        String sameRow = dialect.allEqual(List.of(definition.keyColumn()), "t", "c");
        String source = "(\n" + SqlText.indented(sequence(), 2) + "\n)";
        return set.isEmpty() ? alignment : alignment.then(dialect.rewrite(target, source, sameRow, set));
    }

    private boolean isAdded(Alignment alignment, AuditColumn audit) {
        return alignment.added().contains(conventions.column(audit));
    }

    private void told(Alignment alignment, AuditColumn audit, String value, Map<String, String> set) {
        if (isAdded(alignment, audit)) {
            set.put(conventions.column(audit), value);
        }
    }

    private String flag(AuditColumn audit, String condition) {
        return conventions.flag(audit).stored(dialect, condition);
    }

    /** The versions of members, each with its number, what follows it, and whether its member ended behind it. */
    private String sequence() {
        String to = column("s", AuditColumn.VALID_TO);
        String isOpen =
                conventions.openEnd().map(end -> to + " = " + dialect.date(end)).orElse(to + " is null");
        return Sql.of("""
                select s.*,
                  case when ${is_open} then false when zk_next is null then true else ${ended} < zk_next end as zk_ended
                from (
                  select t.*,
                    row_number() over (partition by ${members} order by ${from}) as zk_version,
                    lead(${from}) over (partition by ${members} order by ${from}) as zk_next
                  from ${target} as t
                  where ${is_member}
                ) as s""")
                .with("is_open", isOpen)
                .with("ended", conventions.inclusive() ? dialect.nextMoment(to, SqlType.DATE) : to)
                .with("members", dialect.list(keys, name -> dialect.column("t", name)))
                .with("from", column("t", AuditColumn.VALID_FROM))
                .with("target", target)
                .with("is_member", definition.isMember(dialect.column("t", definition.keyColumn())))
                .text();
    }

    private String column(String alias, AuditColumn audit) {
        return dialect.column(alias, conventions.column(audit));
    }

    /**
     * A relation of the rows with the audit columns that they lack, as aligning would add them; the table itself where it lacks
     * none.
     */
    public String rows(List<Column> existing) {
        Map<AuditColumn, String> lacking = new LinkedHashMap<>();
        lacking.put(
                AuditColumn.ROW_ORIGIN,
                "case when " + definition.isReserved(dialect.column("t", definition.keyColumn()))
                        + " then 'reserved' else 'source' end");
        if (definition.hasHistory()) {
            lacking.put(AuditColumn.VERSION, "coalesce(q.zk_version, 1)");
            lacking.put(AuditColumn.IS_CURRENT, flag(AuditColumn.IS_CURRENT, "q.zk_next is null"));
            lacking.put(AuditColumn.IS_DELETED, flag(AuditColumn.IS_DELETED, "coalesce(q.zk_ended, false)"));
        } else {
            lacking.put(AuditColumn.IS_DELETED, flag(AuditColumn.IS_DELETED, "false"));
        }
        lacking.keySet()
                .removeIf(audit -> existing.stream()
                        .anyMatch(column -> column.name().equalsIgnoreCase(conventions.column(audit))));
        if (!conventions.standing() || lacking.isEmpty()) {
            return target;
        }
        String added = lacking.entrySet().stream()
                .map(each -> each.getValue() + " as " + dialect.quote(conventions.column(each.getKey())))
                .collect(Collectors.joining(", "));
        String key = definition.keyColumn();
        String joined = definition.hasHistory()
                ? "\nleft join (\n" + SqlText.indented(sequence(), 2) + "\n) as q on " + dialect.column("q", key)
                        + " = " + dialect.column("t", key)
                : "";
        return "(select t.*, " + added + "\nfrom " + target + " as t" + joined + ")";
    }

    /** A member has one current row, or no load could go on with it. */
    public Step.Guard oneCurrent() {
        String current = definition.hasHistory()
                ? "count(case when " + conventions.holds(dialect, "t", AuditColumn.IS_CURRENT) + " then 1 end)"
                : "count(*)";
        String shown = keys.stream()
                .map(key -> "coalesce(" + dialect.asText(dialect.column("t", key)) + ", '')")
                .reduce((left, right) -> left + " || ', ' || " + right)
                .orElseThrow();
        String sql = Sql.of("""
                select min(member), min(current_rows), count(*)
                from (
                  select ${shown} as member, ${current} as current_rows
                  from ${target} as t
                  where ${is_member}
                  group by ${members}
                  having ${current} <> 1
                ) as unsound
                having count(*) > 0""")
                .with("shown", shown)
                .with("current", current)
                .with("target", target)
                .with("is_member", definition.isMember(dialect.column("t", definition.keyColumn())))
                .with("members", dialect.list(keys, name -> dialect.column("t", name)))
                .text();
        String name = definition.table();
        return new Step.Guard(
                Step.caption("one current row", "A member of a table that others made has one current row."),
                sql,
                row -> Counted.of(row.number(3), "member") + " of " + name
                        + (row.number(3) == 1 ? " does" : " do") + " not have one current row, such as " + row.text(1)
                        + ", which has " + row.number(2) + "; no load can go on with them. See: zeitkammer verify "
                        + definition.name() + "; mend " + name
                        + ", then load again. The last version of a member"
                        + " that was deleted is its current one: that it ended is said by "
                        + conventions.column(AuditColumn.IS_DELETED) + " and "
                        + conventions.column(AuditColumn.VALID_TO));
    }
}
