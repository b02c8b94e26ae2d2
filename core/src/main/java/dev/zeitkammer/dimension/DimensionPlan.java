package dev.zeitkammer.dimension;

import static dev.zeitkammer.dimension.table.Scratch.CHANGES;
import static dev.zeitkammer.dimension.table.Scratch.KEYS;
import static dev.zeitkammer.dimension.table.Scratch.MATCH;
import static dev.zeitkammer.step.RowValidation.DUPLICATE_KEYS;
import static dev.zeitkammer.step.RowValidation.OUT;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.current.CurrentComparison;
import dev.zeitkammer.dimension.current.DimensionChanges;
import dev.zeitkammer.dimension.current.Extract;
import dev.zeitkammer.dimension.current.NewMembers;
import dev.zeitkammer.dimension.members.AbsentMembers;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.RowImage;
import dev.zeitkammer.dimension.table.RowOrigin;
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
 * through the steps written here; the others, when there are any, through those of {@link RebuiltTimeline}.
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
    private final Moments moments;
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
        this.moments = loading.moments();
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
        List<Step> steps = new ArrayList<>(validation.steps(ends ? delivery.kept() : delivery));
        if (ends) {
            steps.addAll(new AbsentMembers(table, dialect, target, stamp).steps());
        }
        steps.add(validation.rows());
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
        newMembers.guard(any).ifPresent(steps::add);
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
        List<Part> changed = new ArrayList<>(List.of(new Part(versions() + "\nunion all\n" + updates(), any)));
        if (table.hasHistory() && !everywhere().isEmpty()) {
            changed.add(new Part(olderVersions(), Flag.any(MATCH, "zk_overwrites")));
        }
        if (table.canBeRebuilt()) {
            steps.addAll(history.steps());
            changed.add(new Part(history.changes(), RebuiltTimeline.ANY));
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

    private String superseded() {
        return Sql.of("""
                select zk_row, ${unchanged}, ${no_text}, ${no_text}, ${no_text}
                from (
                  select d.zk_row,
                    row_number() over (partition by ${keys} order by d.zk_effective desc, d.zk_deletes desc) as zk_nth
                  from ${rows} as d
                  join ${duplicate_keys} as c on ${same_key}
                ) as numbered
                where zk_nth > 1""")
                .with("no_text", dialect.noText())
                .with(ROWS, DUPLICATE_KEYS)
                .with("unchanged", Outcome.UNCHANGED.sql())
                .with("keys", dialect.list(table.keys(), key -> dialect.column("d", key)))
                .with("same_key", dialect.allEqual(table.keys(), "c", "d"))
                .text();
    }

    private String isPlaceholder() {
        return current(Role.ROW_ORIGIN) + " = " + dialect.text(RowOrigin.PLACEHOLDER.word());
    }

    private String current(Role role) {
        return dialect.column("c", table.name(role));
    }

    /** What is written on every version of a member when it changes. */
    private List<String> everywhere() {
        return table.definition().overwritesCurrentOnly()
                ? table.compared(Role.TYPE_3)
                : table.compared(Role.TYPE_1, Role.TYPE_3);
    }

    /** A value of type 1 as the row states it. A key stays while it points at a version of the same member. */
    private String overwritten(DimensionColumn column) {
        String stated = dialect.column("r", column.name());
        return column.isLookedUp()
                ? "case when " + dialect.anyDiffers(column.compared(), "r", "c") + " then " + stated + " else "
                        + dialect.column("c", column.name()) + " end"
                : stated;
    }

    /** The value that a column of type 3 had before it last changed. */
    private String previous(DimensionColumn column) {
        String followed = table.followed(column).name();
        return "case when " + current(Role.SURROGATE) + " is not null and not " + isPlaceholder() + " and "
                + dialect.anyDiffers(List.of(followed), "r", "c") + " then " + dialect.column("c", followed) + " else "
                + dialect.column("c", column.name()) + " end";
    }

    /** What the row makes of the values that are overwritten, unless a condition keeps them; an empty one never does. */
    private RowImage overwriting(RowImage images, String unless) {
        return images.withEach(Role.TYPE_1, column -> kept(column, overwritten(column), unless))
                .withEach(Role.TYPE_3, column -> kept(column, dialect.column("r", column.name()), unless))
                .withEach(Role.PREVIOUS, column -> kept(column, previous(column), unless));
    }

    private String kept(DimensionColumn column, String value, String unless) {
        return unless.isEmpty() ? value : dialect.either(unless, dialect.column("c", column.name()), value);
    }

    private String versions() {
        RowImage images = overwriting(RowImage.inserted(table, dialect, moments, stamp), "")
                .with(Role.SURROGATE, "k.zk_new_key")
                .from(Role.MEMBER_KEY, "c")
                .from(Role.KEY, "r")
                .from(Role.TYPE_0, "c")
                .from(Role.TYPE_2, "r")
                .with(Role.VALID_FROM, "r.zk_effective")
                .with(Role.LAST_STATED, "r.zk_effective");
        if (table.hasHistory()) {
            images.with(Role.VERSION, current(Role.VERSION) + " + 1");
        }
        return Sql.of("""
                select 'insert' as zk_change, m.zk_row,
                  ${image}
                from ${match} as m
                join ${keys} as k on k.zk_row = m.zk_row
                join ${delivered} as r on r.zk_row = m.zk_row
                join ${standing} as c on ${surrogate} = m.zk_key
                where m.zk_outcome = ${versioned}""")
                .with(MATCH, KEYS)
                .with("image", images.selectList())
                .with("delivered", lookedUp.rows())
                .with("standing", lookedUp.standing())
                .with("surrogate", current(Role.SURROGATE))
                .with("versioned", Outcome.VERSIONED.sql())
                .text();
    }

    private String updates() {
        boolean ends = !table.hasHistory() && table.hasDeletions();
        String keepsAll = ends ? "m.zk_outcome = " + Outcome.CLOSED.sql() : "";
        RowImage images = overwriting(RowImage.existing(table, dialect, "c").touched(stamp), keepsAll);
        if (table.definition().overwritesCurrentOnly() && table.hasHistory()) {
            images.withEach(
                    Role.TYPE_1,
                    column -> when(Outcome.VERSIONED, dialect.column("c", column.name()), overwritten(column)));
        }
        images.withEach(
                        Role.TYPE_0,
                        column -> when(
                                Outcome.COMPLETED,
                                dialect.column("r", column.name()),
                                dialect.column("c", column.name())))
                .with(
                        Role.ROW_ORIGIN,
                        when(Outcome.COMPLETED, dialect.text(RowOrigin.SOURCE.word()), current(Role.ROW_ORIGIN)));
        if (ends) {
            images.with(Role.IS_DELETED, keepsAll);
        }
        if (table.hasHistory()) {
            images.withEach(
                            Role.TYPE_2,
                            column -> dialect.either(
                                    "m.zk_outcome in (" + Outcome.CORRECTED.sql() + ", " + Outcome.COMPLETED.sql()
                                            + ")",
                                    dialect.column("r", column.name()),
                                    dialect.column("c", column.name())))
                    .with(Role.VALID_FROM, when(Outcome.COMPLETED, "r.zk_effective", current(Role.VALID_FROM)))
                    .with(
                            Role.VALID_TO,
                            when(Outcome.VERSIONED, moments.endBefore("r.zk_effective"), current(Role.VALID_TO)))
                    .with(Role.IS_CURRENT, "m.zk_outcome <> " + Outcome.VERSIONED.sql());
        }
        if (table.hasHistory() && table.hasEffective()) {
            images.with(Role.LAST_STATED, when(Outcome.VERSIONED, current(Role.LAST_STATED), "r.zk_effective"));
        }
        return Sql.of("""
                select case
                    when m.zk_outcome = ${unchanged} then 'restate'
                    when m.zk_outcome = ${overwritten} then 'overwrite'
                    when m.zk_outcome = ${versioned} and not m.zk_overwrites then 'close'
                    else 'update'
                  end, m.zk_row,
                  ${image}
                from ${match} as m
                join ${delivered} as r on r.zk_row = m.zk_row
                join ${standing} as c on ${surrogate} = m.zk_key
                where m.zk_outcome not in (${rebuilt}, ${new}) and not (r.zk_deletes and m.zk_outcome = ${unchanged})""")
                .with(MATCH)
                .with("unchanged", Outcome.UNCHANGED.sql())
                .with("overwritten", Outcome.OVERWRITTEN.sql())
                .with("versioned", Outcome.VERSIONED.sql())
                .with("image", images.selectList())
                .with("delivered", lookedUp.rows())
                .with("standing", lookedUp.standing())
                .with("surrogate", current(Role.SURROGATE))
                .with("rebuilt", CurrentComparison.REBUILT)
                .with("new", Outcome.NEW.sql())
                .text();
    }

    private String when(Outcome outcome, String then, String otherwise) {
        return dialect.either("m.zk_outcome = " + outcome.sql(), then, otherwise);
    }

    /** Values of types 1 and 3 are written on every version of a member. */
    private String olderVersions() {
        RowImage images = overwriting(RowImage.existing(table, dialect, "v").touched(stamp), "");
        if (table.definition().overwritesCurrentOnly()) {
            images.from(Role.TYPE_1, "v");
        }
        return Sql.of("""
                select 'overwrite', cast(null as bigint),
                  ${image}
                from ${match} as m
                join ${delivered} as r on r.zk_row = m.zk_row
                join ${standing} as c on ${surrogate} = m.zk_key
                join ${standing} as v on ${r_is_v}
                where m.zk_overwrites and m.zk_outcome <> ${rebuilt}
                  and not ${v_is_current}
                  and ${differs}""")
                .with(MATCH)
                .with("image", images.selectList())
                .with("delivered", lookedUp.rows())
                .with("standing", lookedUp.standing())
                .with("surrogate", current(Role.SURROGATE))
                .with("r_is_v", dialect.allEqual(table.keys(), "r", "v"))
                .with("rebuilt", CurrentComparison.REBUILT)
                .with("v_is_current", table.holds(dialect, "v", Role.IS_CURRENT))
                .with("differs", dialect.anyDiffers(everywhere(), "r", "v"))
                .text();
    }
}
