package dev.zeitkammer.dimension;

import static dev.zeitkammer.dimension.table.Scratch.CHANGES;
import static dev.zeitkammer.dimension.table.Scratch.MATCH;
import static dev.zeitkammer.step.RowValidation.DUPLICATE_KEYS;
import static dev.zeitkammer.step.RowValidation.OUT;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.current.CurrentChanges;
import dev.zeitkammer.dimension.current.CurrentComparison;
import dev.zeitkammer.dimension.current.DimensionChanges;
import dev.zeitkammer.dimension.current.Extract;
import dev.zeitkammer.dimension.current.NewMembers;
import dev.zeitkammer.dimension.current.OverwrittenValues;
import dev.zeitkammer.dimension.members.AbsentMembers;
import dev.zeitkammer.dimension.members.EndedMembers;
import dev.zeitkammer.dimension.members.ReservedMembers;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.Scratch;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.dimension.table.SurrogateKeys;
import dev.zeitkammer.dimension.timeline.RebuiltTimeline;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.DeliveryRows;
import dev.zeitkammer.step.Differences;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import dev.zeitkammer.step.Step.Gather.Part;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * The steps of a dimension's load, from the delivery to the rows of the table. Members with one staged row that is not late go
 * through {@link CurrentChanges}; the others, when there are any, through {@link RebuiltTimeline}.
 */
final class DimensionPlan {

    private final DimensionLoading loading;
    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final SurrogateKeys newKeys;
    private final Stamp stamp;
    private final StoredLookups lookedUp;
    private final AddedAttributes newAttributes;
    private final NewMembers newMembers;
    private final DimensionChanges changes;

    DimensionPlan(DimensionLoading loading, SurrogateKeys newKeys, AddedAttributes newAttributes) {
        this.loading = loading;
        this.table = loading.table();
        this.dialect = loading.dialect();
        this.target = loading.target();
        this.newKeys = newKeys;
        this.stamp = loading.stamp();
        this.lookedUp = loading.lookups();
        this.newAttributes = newAttributes;
        this.newMembers = new NewMembers(loading, newKeys);
        this.changes = new DimensionChanges(table, loading.warehouse(), newMembers, newAttributes);
    }

    /**
     * @param delivery the query that makes {@link RowValidation#DELIVERY}
     * @param sameValues the columns of the delivery whose values may contradict each other
     * @param extract what the delivery says of members that it does not hold
     */
    Plan plan(DeliveryRows delivery, List<String> sameValues, Extract extract) {
        RebuiltTimeline history = new RebuiltTimeline(loading, newKeys, newAttributes);
        RowValidation validation = validation(sameValues);
        boolean ends = table.definition().deletions().absent() && extract == Extract.READABLE;
        List<Step> steps = new ArrayList<>(
                ends
                        ? validation.steps(delivery.kept(), new AbsentMembers(table, dialect, target, stamp).steps())
                        : validation.steps(delivery));
        steps.addAll(Step.asking(new ReservedMembers(table, loading.warehouse(), stamp).settingAside()));
        steps.addAll(
                table.definition().deletions().addsUnknown()
                        ? new EndedMembers(table, dialect, target).steps()
                        : List.of(validation.rows()));
        steps.addAll(lookedUp.steps());
        if (!table.hasHistory() && (table.hasEffective() || table.hasDeletions())) {
            steps.add(new Step.Append(
                    Step.caption("superseded rows", "Without history only the latest row of a member counts."),
                    OUT,
                    superseded(),
                    Optional.of(RowValidation.ANY_DUPLICATE_KEY)));
        }
        steps.addAll(newAttributes.steps());
        steps.addAll(lookedUp.standingSteps());
        steps.add(new Step.Keep(
                Step.caption(
                        "comparison",
                        "Each row beside the current version of its member; kept where anything differs, null being a value."),
                MATCH,
                new CurrentComparison(table, dialect, lookedUp, extract).sql()));
        Flag any = anyChange();
        steps.addAll(Step.asking(changing(any, history)));
        steps.addAll(newMembers.guards(any));
        return new Plan(steps, changes.changes(), List.of(), reading(any, history));
    }

    /** Whether anything may change: without that, the rows are only counted. */
    private Flag anyChange() {
        Flag any = Flag.any(MATCH);
        any = table.canBeRebuilt() ? any.or(RowValidation.ANY_DUPLICATE_KEY) : any;
        return newAttributes.any() ? any.or(Flag.any(Scratch.FILLED)) : any;
    }

    private List<Step> changing(Flag any, RebuiltTimeline history) {
        List<Step> steps = new ArrayList<>(List.of(newMembers.keys(any)));
        OverwrittenValues overwritten = new OverwrittenValues(loading);
        CurrentChanges current = new CurrentChanges(loading, overwritten);
        List<Part> changed =
                new ArrayList<>(List.of(new Part("members with one row that is not late", current.sql(), any)));
        if (overwritten.reachOlderVersions()) {
            changed.add(new Part(
                    "values of types 1 and 3 on every version of a member",
                    overwritten.ofOlderVersions(),
                    Flag.any(MATCH, "zk_overwrites")));
        }
        if (table.canBeRebuilt()) {
            steps.addAll(history.steps());
            changed.add(new Part("members whose timelines are rebuilt", history.changes(), RebuiltTimeline.ANY));
        }
        steps.add(new Step.Gather(
                Step.caption("changes", "The versions to insert and the rows to update that follow."),
                CHANGES,
                changed));
        return steps;
    }

    private Plan.Reading reading(Flag any, RebuiltTimeline history) {
        OutcomeCounts counts = new OutcomeCounts(table, newAttributes);
        Plan.Reading unchanged = new Plan.Reading(
                Differences.NONE,
                List.of(counts.ofRowsOut()),
                "select 0, 0",
                Optional.of(RowValidation.setAside()),
                Optional.empty(),
                lookedUp.tally(),
                Optional.empty(),
                Optional.empty());
        return new Plan.Reading(
                new DimensionDifferences(table, dialect, lookedUp, newAttributes).all(),
                counts.all(history),
                newAttributes.written(),
                Optional.of(RowValidation.setAside()),
                newKeys.isNumbered() ? Optional.of(newMembers.highest()) : Optional.empty(),
                lookedUp.tally(),
                Optional.of(any),
                Optional.of(unchanged));
    }

    private RowValidation validation(List<String> sameValues) {
        RowValidation validation =
                new RowValidation(dialect, table.keys(), List.of("zk_effective", "zk_deletes"), sameValues);
        if (table.definition().kind() == Kind.COMBINATION) {
            validation.withNullInKeys();
        }
        if (table.definition().lastBy().isPresent()) {
            validation.choosingLast();
        }
        return validation;
    }

    /** An absent member ends, whatever a row of it says that waited. */
    private String superseded() {
        return Sql.of("""
                select zk_row, ${unchanged}, ${no_text}, ${no_text}, ${no_text}
                from (
                  select d.zk_row,
                    row_number() over (partition by ${keys} order by ${absent_first}d.zk_effective desc, d.zk_deletes desc) as zk_nth
                  from ${rows} as d
                  join ${duplicate_keys} as c on ${same_key}
                ) as numbered
                where zk_nth > 1""")
                .with("no_text", dialect.noText())
                .with(ROWS, DUPLICATE_KEYS)
                .with("absent_first", table.definition().deletions().absent() ? AbsentMembers.FIRST : "")
                .with("unchanged", Outcome.UNCHANGED.sql())
                .with("keys", dialect.list(table.keys(), key -> dialect.column("d", key)))
                .with("same_key", dialect.allEqual(table.keys(), "c", "d"))
                .text();
    }
}
