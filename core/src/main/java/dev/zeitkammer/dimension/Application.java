package dev.zeitkammer.dimension;

import static dev.zeitkammer.dimension.Scratch.CHANGES;

import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;

/** Applies the change table to a dimension's table. */
final class Application {

    /** The changes that write over a row as far as readers are concerned, as a list for SQL. */
    static final String UPDATES = "'update', 'overwrite', 'close'";

    private final DimensionTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String target;
    private final NewMembers newMembers;
    private final LookedUp lookedUp;

    Application(DimensionTable table, Warehouse warehouse, NewMembers newMembers, LookedUp lookedUp) {
        this.table = table;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
        this.newMembers = newMembers;
        this.lookedUp = lookedUp;
    }

    private List<String> everything() {
        return table.names(
                Role.TYPE_0,
                Role.TYPE_1,
                Role.TYPE_2,
                Role.TYPE_3,
                Role.PREVIOUS,
                Role.VALID_FROM,
                Role.VALID_TO,
                Role.IS_CURRENT,
                Role.VERSION,
                Role.LAST_STATED,
                Role.IS_DELETED,
                Role.ROW_ORIGIN,
                Role.UPDATED_AT,
                Role.UPDATED_BY);
    }

    private List<String> values() {
        return table.names(Role.TYPE_1, Role.TYPE_3, Role.PREVIOUS, Role.LAST_STATED, Role.UPDATED_AT, Role.UPDATED_BY);
    }

    private List<String> ends() {
        return table.names(Role.VALID_TO, Role.IS_CURRENT, Role.UPDATED_AT, Role.UPDATED_BY);
    }

    private Step rewrite(String name, String purpose, String change, List<String> set) {
        return new Step.Write(
                name,
                purpose,
                dialect.rewrite(target, CHANGES, set, table.names(Role.SURROGATE), "c.zk_change = '" + change + "'"),
                Step.any(CHANGES));
    }

    List<Step> steps() {
        List<Step> steps = new ArrayList<>();
        newMembers.guard().ifPresent(steps::add);
        steps.add(rewrite(
                "update rows",
                "Rows of the change table are written over the rows with the same key.",
                "update",
                everything()));
        steps.add(rewrite(
                "overwrite values",
                "Values that are not kept in versions are written over the old ones.",
                "overwrite",
                values()));
        if (table.hasHistory()) {
            steps.add(rewrite(
                    "close versions",
                    "Versions that another one follows keep everything but their end.",
                    "close",
                    ends()));
        }
        if (table.hasHistory() && table.hasEffective()) {
            steps.add(rewrite(
                    "restate versions",
                    "Versions that were stated again keep everything but the moment when.",
                    "restate",
                    table.names(Role.LAST_STATED)));
        }
        List<String> all = table.columns().stream().map(DimensionColumn::name).toList();
        steps.add(new Step.Write(
                "insert versions",
                "New versions are added.",
                dialect.append(target, CHANGES, all, "c.zk_change = 'insert'"),
                Step.any(CHANGES)));
        steps.add(newMembers.rows());
        steps.addAll(lookedUp.resolution());
        table.definition().hierarchy().ifPresent(parent -> steps.addAll(new Bridge(table, parent, warehouse).steps()));
        return steps;
    }
}
