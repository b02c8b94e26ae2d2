package dev.zeitkammer.lookup;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.OthersLoad;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.ReservedMember;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Expressions;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * Tables of dimensions that others load, as lookups read them: the keys under the names of the definition, and what its columns say of
 * dates and current rows under the names of audit columns. Nothing is written to them.
 */
public final class OthersTables {

    /** Whatever others write may have been written since any load. */
    private static final String NEVER_KNOWN = String.valueOf(Long.MAX_VALUE);

    private static final Pattern NAME = Pattern.compile("[\\p{L}_][\\p{L}\\p{N}_$]*");

    private final Dimension dimension;
    private final OthersLoad others;
    private final Conventions conventions;
    private final Dialect dialect;

    private OthersTables(Dimension dimension, Dialect dialect) {
        this.dimension = dimension;
        this.others = dimension.othersLoad().orElseThrow();
        this.conventions = dimension.conventions();
        this.dialect = dialect;
    }

    /** Lets a warehouse read all of them so. */
    public static void standIn(Project project, Warehouse warehouse) {
        project.dimensions().stream()
                .filter(Dimension::isOthers)
                .forEach(dimension -> warehouse.standIn(
                        dimension.table(),
                        new OthersTables(dimension, warehouse.dialect()).query(table(dimension, warehouse))));
    }

    private static String table(Dimension dimension, Warehouse warehouse) {
        List<String> parts = Arrays.asList(dimension.table().split("\\."));
        return parts.size() == 1
                ? warehouse.table(dimension.table())
                : parts.stream().map(warehouse.dialect()::quote).collect(Collectors.joining("."));
    }

    private String query(String table) {
        List<String> selected = new ArrayList<>();
        selected.add("t." + dialect.quote(dimension.keyColumn()));
        List<Word> taken = dimension.keyTaken();
        for (int position = 0; position < taken.size(); position++) {
            selected.add(taken(taken.get(position)) + " as "
                    + dialect.quote(dimension.key().get(position).text()));
        }
        if (others.hasVersions()) {
            versions(selected);
        }
        selected.add(flag(AuditColumn.IS_DELETED, isDeleted()) + " as " + column(AuditColumn.IS_DELETED));
        selected.add("case when t." + dialect.quote(dimension.keyColumn()) + " in ("
                + dimension.reserved().stream()
                        .map(ReservedMember::key)
                        .map(String::valueOf)
                        .collect(Collectors.joining(", "))
                + ") then 'reserved' else 'source' end as " + column(AuditColumn.ROW_ORIGIN));
        selected.add("cast(0 as bigint) as " + column(AuditColumn.INSERTED_BY));
        selected.add("cast(" + NEVER_KNOWN + " as bigint) as " + column(AuditColumn.UPDATED_BY));
        return Sql.of("select ${selected}\nfrom ${rows} as t")
                .with("selected", String.join(",\n  ", selected))
                .with("rows", others.from().isPresent() ? sequence(table) : table)
                .text();
    }

    private void versions(List<String> selected) {
        others.from().ifPresent(from -> {
            selected.add("t." + dialect.quote(from.text()) + " as " + column(AuditColumn.VALID_FROM));
            selected.add(until() + " as " + column(AuditColumn.VALID_TO));
        });
        selected.add(flag(
                        AuditColumn.IS_CURRENT,
                        others.current()
                                .map(sql -> "coalesce(" + Expressions.sql(sql) + ", false)")
                                .orElse("t.zk_next is null"))
                + " as " + column(AuditColumn.IS_CURRENT));
        selected.add((others.from().isPresent() ? "t.zk_version" : "1") + " as " + column(AuditColumn.VERSION));
    }

    /** Where no column says so, a row holds until the next one begins. */
    private String until() {
        return others.until().map(until -> "t." + dialect.quote(until.text())).orElse("t.zk_next");
    }

    private String isDeleted() {
        if (others.until().isEmpty()) {
            return "false";
        }
        String isOpen = conventions
                .openEnd()
                .map(end -> until() + " >= " + dialect.date(end) + " or " + until() + " is null")
                .orElse(until() + " is null");
        return "t.zk_next is null and not (" + isOpen + ")";
    }

    private String sequence(String table) {
        String members = dimension.keyTaken().stream().map(this::taken).collect(Collectors.joining(", "));
        return Sql.of("""
                (
                  select t.*, row_number() over member as zk_version, lead(${from}) over member as zk_next
                  from ${table} as t
                  window member as (partition by ${members} order by ${from})
                )""")
                .with("from", dialect.quote(others.from().orElseThrow().text()))
                .with("table", table)
                .with("members", members)
                .text();
    }

    /** A column of theirs, or an expression over their columns. */
    private String taken(Word key) {
        return NAME.matcher(key.text()).matches() ? "t." + dialect.quote(key.text()) : Expressions.sql(key);
    }

    private String flag(AuditColumn audit, String condition) {
        return conventions.flag(audit).stored(dialect, condition);
    }

    private String column(AuditColumn audit) {
        return dialect.quote(conventions.column(audit));
    }
}
