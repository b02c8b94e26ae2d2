package dev.zeitkammer.dimension;

import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Scratch;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
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
    private final StoredLookups lookedUp;
    private final AddedAttributes newAttributes;
    private final List<DimensionColumn> attributes;

    DimensionDifferences(DimensionTable table, Dialect dialect, StoredLookups lookedUp, AddedAttributes newAttributes) {
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
                ? " and (" + table.holds(dialect, "zk_o", Role.IS_CURRENT) + " or "
                        + dialect.anyDiffers(table.names(Role.TYPE_2), "zk_o", "zk_c") + ")"
                : "";
        return Sql.of("""
                select ${c_member} as zk_member, 'in place' as zk_causes, ${old_and_new}
                from ${changes} as zk_c
                join ${target} as zk_o on zk_o.${key} = zk_c.${key}
                where zk_c.zk_change in ('overwrite', 'update')${current}""")
                .with(Scratch.CHANGES)
                .with("c_member", member("zk_c"))
                .with(
                        "old_and_new",
                        values(
                                index -> shown(attributes.get(index), "zk_o"),
                                index -> shown(attributes.get(index), "zk_c")))
                .with("target", target)
                .with("key", key)
                .with("current", current)
                .text();
    }

    /** Every version of the members that get a new one, as it will be, beside the version before it. */
    private String newVersions() {
        String key = dialect.quote(table.name(Role.SURROGATE));
        List<String> columns =
                table.columns().stream().map(DimensionColumn::name).toList();
        String from = dialect.quote(table.name(Role.VALID_FROM));
        String lagged = IntStream.range(0, attributes.size())
                .mapToObj(index -> "lag(" + told(index, "zk_versions") + ") over member as zk_lag_" + index)
                .collect(Collectors.joining(", "));
        return Sql.of("""
                select ${v_member}, 'new version', ${old_and_new}
                from (
                  select *, row_number() over member as zk_place${lagged}
                  from (
                    select ${column_names}, zk_change${shown_of_changes} from ${changes} as c where zk_change in ('insert', 'overwrite', 'update', 'move')
                    union all
                    select ${column_names}, 'none'${shown_of_rows} from ${target} as zk_t
                    where not exists (select 1 from ${changes} as c where c.${key} = zk_t.${key} and c.zk_change in ('insert', 'overwrite', 'update', 'move'))
                      and exists (select 1 from ${changes} as c where ${c_is_t} and c.zk_change = 'insert')
                  ) as zk_versions
                  window member as (partition by ${key_names} order by ${from})
                ) as zk_v
                where zk_v.zk_change = 'insert' and zk_v.zk_place > 1""")
                .with(Scratch.CHANGES)
                .with("v_member", member("zk_v"))
                .with("old_and_new", values(index -> "zk_v.zk_lag_" + index, index -> told(index, "zk_v")))
                .with("shown_of_changes", shownKeys("c"))
                .with("shown_of_rows", shownKeys("zk_t"))
                .with("lagged", lagged.isEmpty() ? "" : ", " + lagged)
                .with("column_names", dialect.columns(columns))
                .with("target", target)
                .with("key", key)
                .with("c_is_t", dialect.allEqual(table.keys(), "c", "zk_t"))
                .with("key_names", dialect.columns(table.keys()))
                .with("from", from)
                .text();
    }

    /**
     * What stands for the keys among the attributes, asked for before rows are put together: an engine does not find a key that is
     * looked up above a union.
     */
    private String shownKeys(String alias) {
        return IntStream.range(0, attributes.size())
                .filter(index -> attributes.get(index).isLookedUp())
                .mapToObj(index -> ", " + shown(attributes.get(index), alias) + " as zk_shown_" + index)
                .collect(Collectors.joining());
    }

    /** The value of an attribute among rows that were put together. */
    private String told(int index, String alias) {
        DimensionColumn attribute = attributes.get(index);
        return attribute.isLookedUp() ? alias + ".zk_shown_" + index : dialect.column(alias, attribute.name());
    }

    private String values(IntFunction<String> before, IntFunction<String> after) {
        return IntStream.range(0, attributes.size())
                .mapToObj(index -> dialect.asText(before.apply(index)) + " as zk_old_" + index + ", "
                        + dialect.asText(after.apply(index)) + " as zk_new_" + index)
                .collect(Collectors.joining(", "));
    }
}
