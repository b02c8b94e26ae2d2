package dev.zeitkammer.fact;

import static dev.zeitkammer.fact.FactPlan.CHANGES;
import static dev.zeitkammer.fact.FactPlan.REMOVED;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;

/**
 * How the changes of facts are written.
 *
 * @param compares whether facts that are there are compared, so that some may have changed
 * @param replaces whether facts that a delivered period no longer has are removed
 */
record FactWriting(String target, FactImage image, boolean compares, boolean replaces) {

    private FactTable table() {
        return image.table();
    }

    private Dialect dialect() {
        return image.dialect();
    }

    /** @param added the rows that become new facts, from {@code from} on */
    List<Change<TableChange>> changes(String added) {
        List<Change<TableChange>> changes = new ArrayList<>();
        List<String> stamps = List.of(table().stamp(AuditColumn.UPDATED_AT), table().stamp(AuditColumn.UPDATED_BY));
        if (compares) {
            List<String> set = new ArrayList<>(table().comparedNames());
            set.addAll(stamps);
            if (image.marks()) {
                set.add(table().stamp(AuditColumn.IS_DELETED));
            }
            changes.add(rewrite(
                    Step.caption(
                            "update facts", "Rows of the change table are written over the facts of the same grain."),
                    "update",
                    set));
        }
        if (image.marks()) {
            List<String> set = new ArrayList<>(stamps);
            set.add(table().stamp(AuditColumn.IS_DELETED));
            changes.add(rewrite(Step.caption("mark facts", "Cancelled facts are marked."), "mark", set));
        } else if (table().definition().deletions().isPresent()) {
            changes.add(Change.of(
                    new TableChange.Remove(
                            Step.caption("remove facts", "Cancelled facts are removed."), target, matching("remove")),
                    isAny("remove")));
        }
        if (replaces) {
            changes.add(Change.of(
                    new TableChange.Remove(
                            Step.caption("remove facts no longer delivered", "The snapshot is what was delivered."),
                            target,
                            new Matching(REMOVED, dialect().allEqual(table().grainNames(), "t", "c"))),
                    Flag.any(REMOVED)));
        }
        changes.add(Change.of(new TableChange.Insert(
                Step.caption("insert facts", "New facts are added."),
                target,
                table().columns().stream().map(Column::name).toList(),
                "select " + image.of(true) + "\n" + added)));
        return changes;
    }

    private Change<TableChange> rewrite(Caption caption, String change, List<String> set) {
        return Change.of(
                new TableChange.Rewrite(caption, target, matching(change), TableChange.same(dialect(), set)),
                isAny(change));
    }

    private Matching matching(String change) {
        return new Matching(
                CHANGES, dialect().allEqual(table().grainNames(), "t", "c") + " and c.zk_change = '" + change + "'");
    }

    private static Flag isAny(String change) {
        return Flag.any(CHANGES, "zk_change = '" + change + "'");
    }
}
