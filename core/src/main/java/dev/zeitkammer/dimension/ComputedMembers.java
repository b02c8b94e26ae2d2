package dev.zeitkammer.dimension;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.align.Constraining;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.current.Extract;
import dev.zeitkammer.dimension.members.ReservedMembers;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.dimension.table.SurrogateKeys;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.DeliveryRows;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import dev.zeitkammer.step.TableLoad;
import dev.zeitkammer.step.TableLoad.Complete;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Loads a dimension without history whose members, and their surrogate keys, a query makes. */
public abstract class ComputedMembers implements TableLoad {

    private final Dimension definition;
    private final Warehouse warehouse;
    private final List<DimensionColumn> columns;

    /** @param columns the business key and the attributes */
    protected ComputedMembers(Dimension definition, Warehouse warehouse, List<DimensionColumn> columns) {
        this.definition = definition;
        this.warehouse = warehouse;
        this.columns = List.copyOf(columns);
    }

    /** A query of {@code zk_key} and the columns. */
    protected abstract String members();

    /** What must hold before; nothing unless a kind of members says so. */
    protected List<Step.Guard> guards() {
        return List.of();
    }

    /**
     * A query of standing members with something that does not follow from their business key: the surrogate key, the business key,
     * the first such column, and what stands there.
     *
     * @param names the columns that follow, the business key first
     * @param following a query of {@code zk_key} and these columns
     */
    protected final String damage(List<String> names, String following) {
        Dialect dialect = warehouse.dialect();
        Set<String> standing = warehouse.columns(definition.table()).stream()
                .map(column -> column.name().toLowerCase(Locale.ROOT))
                .collect(Collectors.toSet());
        List<String> judged = names.stream().skip(1).filter(standing::contains).toList();
        String key = dialect.column("t", definition.keyColumn());
        return Sql.of("""
                select ${surrogate}, ${key}, wrong, stands
                from (
                  select t.${surrogate}, t.${key},
                    case when t.${surrogate} <> m.zk_key then ${surrogate_name} ${wrong} end as wrong,
                    case when t.${surrogate} <> m.zk_key then ${surrogate_text} ${stands} end as stands
                  from ${target} as t
                  join (
                ${following}
                  ) as m on m.${key} = t.${key}
                ) as compared
                where wrong is not null""")
                .with("surrogate", dialect.quote(definition.keyColumn()))
                .with("surrogate_name", dialect.text(definition.keyColumn()))
                .with("surrogate_text", dialect.asText(key))
                .with("key", dialect.quote(names.get(0)))
                .with("wrong", whens(judged, dialect::text))
                .with("stands", whens(judged, name -> dialect.asText(dialect.column("t", name))))
                .with("target", warehouse.table(definition.table()))
                .with("following", following)
                .text();
    }

    private String whens(List<String> columns, Function<String, String> then) {
        Dialect dialect = warehouse.dialect();
        return columns.stream()
                .map(name -> "when " + dialect.differs(dialect.column("t", name), dialect.column("m", name)) + " then "
                        + then.apply(name))
                .collect(Collectors.joining("\n      "));
    }

    @Override
    public final Definition definition() {
        return definition;
    }

    @Override
    public final String kind() {
        return "dimension";
    }

    @Override
    public final boolean followsLoadDate() {
        return false;
    }

    @Override
    public void want(Wanted wanted) {
        // its members are computed
    }

    @Override
    public final Prepared prepare(Optional<StagedRows> rows, Stamp stamp) {
        DimensionTable table = DimensionTable.of(definition, columns, SqlType.DATE, false);
        Alignment alignment = Aligning.of(table.shape(warehouse, stamp), warehouse);
        if (definition.isEnforced()) {
            alignment = alignment.then(Constraining.of(definition.table(), table.constraints(), warehouse));
        }
        return new Prepared(
                alignment,
                guards(),
                new ReservedMembers(table, warehouse, stamp).changes(),
                () -> List.of(plan(table, stamp)),
                alignment.statements().isEmpty() ? Optional.of(complete(table)) : Optional.empty());
    }

    /** Whether all members stand as they are computed, and the reserved ones too. */
    private Complete complete(DimensionTable table) {
        Dialect dialect = warehouse.dialect();
        String target = warehouse.table(definition.table());
        String surrogate = table.name(DimensionColumn.Role.SURROGATE);
        String differs = dialect.anyDiffers(
                table.attributes().stream().map(DimensionColumn::name).toList(), "m", "t");
        String sql = Sql.of("""
                select members
                from (
                  select count(*) as members,
                    count(case when ${t_surrogate} is null or ${differs} then 1 end) as different,
                    (select count(*) from ${target} where ${surrogate} in (${reserved_keys})) as reserved
                  from (
                    ${members}
                  ) as m
                  left join ${target} as t on ${m_is_t}
                ) as compared
                where different = 0 and reserved = ${reserved_count}""")
                .with("t_surrogate", dialect.column("t", surrogate))
                .with("differs", differs)
                .with("target", target)
                .with("surrogate", dialect.quote(surrogate))
                .with("reserved_keys", dialect.list(definition.reserved(), member -> String.valueOf(member.key())))
                .with("reserved_count", definition.reserved().size())
                .with("members", members())
                .with("m_is_t", dialect.allEqual(table.keys(), "m", "t"))
                .text();
        return new Complete(
                Step.caption("complete", "Where every member stands as it is computed, there is nothing else to do."),
                sql,
                OutcomeCounts::unchanged);
    }

    private Plan plan(DimensionTable table, Stamp stamp) {
        String delivery = Sql.of("""
                select row_number() over (order by zk_key) as zk_row, ${load_date} as zk_effective, false as zk_deletes, m.*,
                  ${no_text} as zk_bad_column, ${no_text} as zk_bad_text
                from (
                  ${members}
                ) as m""")
                .with("load_date", warehouse.dialect().date(stamp.date().day()))
                .with("no_text", warehouse.dialect().noText())
                .with("members", members())
                .text();
        String target = warehouse.table(definition.table());
        StoredLookups nobody = new StoredLookups(List.of(), List.of(), warehouse, target, false, false);
        DimensionLoading loading = new DimensionLoading(table, warehouse, stamp, nobody);
        DimensionPlan steps =
                new DimensionPlan(loading, new SurrogateKeys.Delivered(false), new AddedAttributes(loading, Map.of()));
        List<String> values =
                table.attributes().stream().map(DimensionColumn::name).toList();
        return steps.plan(new DeliveryRows(delivery, Optional.empty(), false, false), values, Extract.READABLE);
    }
}
