package dev.zeitkammer.dimension.current;

import static dev.zeitkammer.dimension.table.Scratch.CHANGES;

import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;

/** Applies the change table to a dimension's table. */
public final class DimensionChanges {

    /** The changes that write over a row as far as readers are concerned, as a list for SQL. */
    public static final String UPDATES = "'update', 'overwrite', 'close', 'move'";

    /** The roles of what a version says, as opposed to when it holds. */
    public static final List<Role> VALUES = List.of(Role.TYPE_0, Role.TYPE_1, Role.TYPE_2, Role.TYPE_3, Role.PREVIOUS);

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final NewMembers newMembers;
    private final AddedAttributes newAttributes;

    public DimensionChanges(
            DimensionTable table, Warehouse warehouse, NewMembers newMembers, AddedAttributes newAttributes) {
        this.table = table;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
        this.newMembers = newMembers;
        this.newAttributes = newAttributes;
    }

    private List<String> everything() {
        List<String> all = new ArrayList<>(table.names(VALUES.toArray(Role[]::new)));
        all.addAll(times());
        return all;
    }

    private List<String> times() {
        return table.names(
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

    private Change<TableChange> rewrite(Caption caption, String change, List<String> set) {
        String on = dialect.allEqual(table.names(Role.SURROGATE), "t", "c") + " and c.zk_change = '" + change + "'";
        return Change.of(
                new TableChange.Rewrite(caption, target, new Matching(CHANGES, on), TableChange.same(dialect, set)),
                isAny(change));
    }

    private static Flag isAny(String change) {
        return Flag.any(CHANGES, "zk_change = '" + change + "'");
    }

    /** What is written, in order: rows that stand first, then new ones. */
    public List<Change<TableChange>> changes() {
        List<Change<TableChange>> changes = new ArrayList<>(newAttributes.changes());
        changes.add(rewrite(
                Step.caption("update rows", "Rows of the change table are written over the rows with the same key."),
                "update",
                everything()));
        changes.add(rewrite(
                Step.caption("overwrite values", "Values that are not kept in versions are written over the old ones."),
                "overwrite",
                values()));
        if (table.hasHistory()) {
            changes.add(rewrite(
                    Step.caption("close versions", "Versions that another one follows keep everything but their end."),
                    "close",
                    ends()));
            changes.add(rewrite(
                    Step.caption("move versions", "Versions that hold at other times now keep what they say."),
                    "move",
                    times()));
        }
        if (table.hasHistory() && table.hasEffective()) {
            changes.add(rewrite(
                    Step.caption(
                            "restate versions", "Versions that were stated again keep everything but the moment when."),
                    "restate",
                    table.names(Role.LAST_STATED)));
        }
        List<String> all = table.columns().stream().map(DimensionColumn::name).toList();
        changes.add(Change.of(
                new TableChange.Insert(
                        Step.caption("insert versions", "New versions are added."),
                        target,
                        all,
                        "select " + dialect.list(all, name -> dialect.column("c", name)) + "\nfrom " + CHANGES
                                + " as c\nwhere c.zk_change = 'insert'"),
                isAny("insert")));
        changes.add(newMembers.rows());
        return changes;
    }
}
