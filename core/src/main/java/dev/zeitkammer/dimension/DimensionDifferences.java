package dev.zeitkammer.dimension;

import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.step.Differences;
import java.util.List;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Which values of a dimension change: a version against the one before it, a row that is written over against itself. */
final class DimensionDifferences {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final LookedUp lookedUp;
    private final NewAttributes newAttributes;
    private final List<DimensionColumn> attributes;

    DimensionDifferences(DimensionTable table, Dialect dialect, LookedUp lookedUp, NewAttributes newAttributes) {
        this.table = table;
        this.dialect = dialect;
        this.target = lookedUp.stored();
        this.lookedUp = lookedUp;
        this.newAttributes = newAttributes;
        this.attributes = table.attributes();
    }

    Differences all() {
        String pairs = table.hasHistory() ? inPlace() + "\nunion all\n" + newVersions() : inPlace();
        return new Differences(
                attributes.stream().map(DimensionColumn::name).toList(),
                pairs + newAttributes.differences(member("c"), attributes));
    }

    private String shown(DimensionColumn column, String alias) {
        return column.isLookedUp() ? lookedUp.shown(column, alias) : dialect.column(alias, column.name());
    }

    private String member(String alias) {
        return table.keys().stream()
                .map(key -> dialect.cast(dialect.column(alias, key), SqlType.VARCHAR))
                .collect(Collectors.joining(" || ', ' || "));
    }

    /** The rows that are current now, and older ones whose history is corrected; type 1 values are told once a member. */
    private String inPlace() {
        String key = dialect.quote(table.name(Role.SURROGATE));
        String current = table.hasHistory()
                ? " and (" + dialect.column("o", table.name(Role.IS_CURRENT)) + " or "
                        + dialect.anyDiffers(table.names(Role.TYPE_2), "o", "c") + ")"
                : "";
        return """
                select %s as zk_member, 'in place' as zk_causes, %s
                from %s as c
                join %s as o on o.%s = c.%s
                where c.zk_change in ('overwrite', 'update')%s""".formatted(
                        member("c"),
                        values(index -> shown(attributes.get(index), "o"), index -> shown(attributes.get(index), "c")),
                        Scratch.CHANGES,
                        target,
                        key,
                        key,
                        current);
    }

    /** Every version of the members that get a new one, as it will be, beside the version before it. */
    private String newVersions() {
        String key = dialect.quote(table.name(Role.SURROGATE));
        List<String> columns =
                table.columns().stream().map(DimensionColumn::name).toList();
        String from = dialect.quote(table.name(Role.VALID_FROM));
        String lagged = IntStream.range(0, attributes.size())
                .mapToObj(
                        index -> "lag(" + shown(attributes.get(index), "versions") + ") over member as zk_lag_" + index)
                .collect(Collectors.joining(", "));
        return """
                select %s, 'new version', %s
                from (
                  select *, row_number() over member as zk_place%s
                  from (
                    select %s, zk_change from %s as c where zk_change in ('insert', 'overwrite', 'update')
                    union all
                    select %s, 'none' from %s as t
                    where not exists (select 1 from %s as c where c.%s = t.%s and c.zk_change in ('insert', 'overwrite', 'update'))
                      and exists (select 1 from %s as c where %s and c.zk_change = 'insert')
                  ) as versions
                  window member as (partition by %s order by %s)
                ) as v
                where v.zk_change = 'insert' and v.zk_place > 1""".formatted(
                        member("v"),
                        values(index -> "v.zk_lag_" + index, index -> shown(attributes.get(index), "v")),
                        lagged.isEmpty() ? "" : ", " + lagged,
                        dialect.columns(columns),
                        Scratch.CHANGES,
                        dialect.columns(columns),
                        target,
                        Scratch.CHANGES,
                        key,
                        key,
                        Scratch.CHANGES,
                        dialect.allEqual(table.keys(), "c", "t"),
                        dialect.columns(table.keys()),
                        from);
    }

    private String values(IntFunction<String> before, IntFunction<String> after) {
        return IntStream.range(0, attributes.size())
                .mapToObj(index -> "cast(" + before.apply(index) + " as varchar) as zk_old_" + index + ", cast("
                        + after.apply(index) + " as varchar) as zk_new_" + index)
                .collect(Collectors.joining(", "));
    }
}
