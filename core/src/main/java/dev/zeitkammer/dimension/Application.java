package dev.zeitkammer.dimension;

import static dev.zeitkammer.dimension.Scratch.CHANGES;

import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Applies the change table to a dimension's table. */
final class Application {

    private final DimensionTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String target;
    private final NewKeys newKeys;
    private final LookedUp lookedUp;

    Application(DimensionTable table, Warehouse warehouse, NewKeys newKeys, LookedUp lookedUp) {
        this.table = table;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
        this.newKeys = newKeys;
        this.lookedUp = lookedUp;
    }

    List<Step> steps() {
        List<String> key = table.names(Role.SURROGATE);
        List<String> written = table.names(
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
        List<Step> steps = new ArrayList<>();
        if (newKeys.canCollide()) {
            steps.add(keysAreNew());
        }
        steps.add(new Step.Write(
                "update rows",
                "Rows of the change table are written over the rows with the same key.",
                dialect.rewrite(target, CHANGES, written, key, "c.zk_change = 'update'"),
                Step.any(CHANGES)));
        if (table.hasHistory() && table.hasEffective()) {
            steps.add(new Step.Write(
                    "restate versions",
                    "Versions that were stated again keep everything but the moment when.",
                    dialect.rewrite(target, CHANGES, table.names(Role.LAST_STATED), key, "c.zk_change = 'restate'"),
                    Step.any(CHANGES)));
        }
        List<String> all = table.columns().stream().map(DimensionColumn::name).toList();
        steps.add(new Step.Write(
                "insert rows",
                "New members and new versions are added.",
                dialect.append(target, CHANGES, all, "c.zk_change = 'insert'"),
                Step.any(CHANGES)));
        steps.addAll(lookedUp.resolution());
        table.definition().hierarchy().ifPresent(parent -> steps.addAll(new Bridge(table, parent, warehouse).steps()));
        return steps;
    }

    private Step keysAreNew() {
        String key = dialect.quote(table.name(Role.SURROGATE));
        String sql = """
                select %s
                from %s as c
                where c.zk_change = 'insert'
                group by %s
                having count(*) > 1 or exists (select 1 from %s as t where t.%s = c.%s)
                limit 1""".formatted(key, CHANGES, key, target, key, key);
        return new Step.Guard(
                "new keys",
                "A new row's surrogate key must not have been given to another row.",
                sql,
                Step.any(CHANGES),
                Optional.empty(),
                row -> "The surrogate key " + row.number(1) + " of "
                        + table.definition().table()
                        + " would be given a second time; a surrogate key is never reused, so nothing was loaded");
    }
}
