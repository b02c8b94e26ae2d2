package dev.zeitkammer.dimension;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import java.util.List;
import java.util.Optional;

/** Loads a dimension without history whose members, and their surrogate keys, a query makes. */
public class ComputedMembers implements TableLoad {

    private final Dimension definition;
    private final Conventions conventions;
    private final Warehouse warehouse;
    private final List<DimensionColumn> columns;
    private final String members;

    /**
     * @param columns the business key and the attributes
     * @param members a query of {@code zk_key} and the columns
     */
    protected ComputedMembers(
            Dimension definition,
            Conventions conventions,
            Warehouse warehouse,
            List<DimensionColumn> columns,
            String members) {
        this.definition = definition;
        this.conventions = conventions;
        this.warehouse = warehouse;
        this.columns = List.copyOf(columns);
        this.members = members;
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
    public final void want(Wanted wanted) {
        // its members are computed
    }

    @Override
    public final Prepared prepare(Optional<StagedRows> rows, Stamp stamp) {
        DimensionTable table = DimensionTable.of(definition, conventions, columns, SqlType.DATE);
        String delivery = """
                select row_number() over (order by zk_key) as zk_row, %s as zk_effective, false as zk_deletes, m.*,
                  cast(null as varchar) as zk_bad_column, cast(null as varchar) as zk_bad_text
                from (
                %s
                ) as m""".formatted(
                warehouse.dialect().date(stamp.date()), members.indent(2).stripTrailing());
        DimensionSteps steps = new DimensionSteps(table, warehouse, new NewKeys.Delivered(), stamp);
        return new Prepared(
                Alignment.of(table.shape(), warehouse),
                List.of(new ReservedMembers(table, warehouse, stamp).step()),
                steps.plan(delivery, true));
    }
}
