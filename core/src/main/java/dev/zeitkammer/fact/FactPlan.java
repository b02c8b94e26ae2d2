package dev.zeitkammer.fact;

import static dev.zeitkammer.lookup.LookupSteps.RESOLVED;
import static dev.zeitkammer.step.RowValidation.DELIVERY;
import static dev.zeitkammer.step.RowValidation.OUT;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.Fact.OnRepeat;
import dev.zeitkammer.definition.Lookup.Blank;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.members.PlaceholderMembers;
import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.lookup.DirectLookups;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSteps;
import dev.zeitkammer.lookup.LookupSteps.Looking;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.DeliveryRows;
import dev.zeitkammer.step.Differences;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** The steps of a fact's load, from the delivery to the rows of the table. */
final class FactPlan {

    static final Relation CHANGES =
            Relation.of("zk_changes", "A fact as it will be: the change table.", "zk_change", "zk_row");
    static final Relation LOADED = Relation.of(
            "zk_loaded",
            "A row with the keys that the fact stores.",
            "zk_row",
            "zk_deletes",
            "zk_f*",
            "zk_m*",
            "zk_a*",
            "zk_bad_column",
            "zk_bad_text");
    private static final Relation MET =
            Relation.of("zk_met", "A row whose grain is there already, and what it changes.", "zk_row", "zk_change");
    static final Relation REMOVED =
            Relation.of("zk_removed", "The grain of a fact that a snapshot no longer delivers.");

    private final FactLoading loading;
    private final FactTable table;
    private final List<LookupSql> lookups;
    private final Dialect dialect;
    private final String target;
    private final PlaceholderMembers missing;
    private final LookupSteps lookupSteps;
    private final FactImage image;
    private final Size size;

    /**
     * How much is delivered.
     *
     * @param isLarge whether it is that much that questions are better asked of whole tables
     * @param isFirst whether what lookups find is rather looked up twice than kept, and the table has no facts yet
     */
    record Size(boolean isLarge, boolean isFirst) {}

    FactPlan(FactLoading loading, List<LookupSql> lookups, Size size) {
        this.size = size;
        this.loading = loading;
        this.table = loading.table();
        this.lookups = List.copyOf(lookups);
        this.dialect = loading.dialect();
        this.target = loading.target();
        this.image = new FactImage(table, dialect, loading.stamp());
        this.missing = loading.placeholders(this.lookups);
        this.lookupSteps = new LookupSteps(lookups, dialect, missing);
    }

    /**
     * @param delivery the query that makes the rows as the definition loads them
     * @param readable whether every line of the delivery could be read
     */
    Plan plan(DeliveryRows delivery, boolean readable) {
        List<Step> steps = new ArrayList<>();
        RowValidation sieve = sieve();
        steps.addAll(sieve.steps(delivery));
        steps.add(sieve.rows());
        String looking = looksUpSome() ? "(select * from " + ROWS + " where not zk_deletes)" : ROWS.name();
        boolean refuses = table.definition().onRepeat() == OnRepeat.REFUSE && compares();
        Looking rows = new Looking(looking, carried(), size.isLarge());
        DirectLookups direct = new DirectLookups(lookupSteps, dialect, rows, target);
        steps.addAll(isDirect() ? direct.steps() : lookupSteps.steps(rows));
        List<Step> sound = isDirect() ? List.of() : lookupSteps.guards(looking);
        boolean sortsOut = refuses || standsInGrain();
        steps.addAll(sortsOut ? Step.asking(sound) : List.of());
        steps.add(new Step.Name(
                Step.caption("loaded rows", "The rows with the keys that they found."), LOADED, loaded()));
        if (standsInGrain()) {
            steps.addAll(Step.asking(List.of(oneGrain())));
        }
        if (refuses) {
            steps.add(refusal());
        }
        if (compares()) {
            steps.add(new Step.Keep(
                    Step.caption(
                            "comparison",
                            "The rows whose grain is there already, and whether they differ from the fact."),
                    MET,
                    met()));
            steps.add(new Step.Keep(Step.caption("changes", "The facts to change that follow."), CHANGES, changes()));
        }
        boolean replaces = table.definition().replaces().isPresent() && readable;
        if (replaces) {
            steps.add(new Step.Keep(
                    Step.caption(
                            "facts no longer delivered",
                            "Within the delivered periods, facts whose grain is delivered no more."),
                    REMOVED,
                    new DeliveredPeriods(loading, lookups).noLongerDelivered()));
        }
        steps.addAll(sortsOut ? List.of() : sound);
        List<Change<TableChange>> changes = new ArrayList<>(missing.changes());
        changes.addAll(new FactWriting(target, image, compares(), replaces).changes(added("")));
        List<Change<BookChange>> noted = new ArrayList<>(missing.noted());
        noted.addAll(new WaitingFacts(loading)
                .noting(lookups, lookup -> isDirect() ? toldDirectly(lookup, direct) : told(lookup)));
        String inserted = inserted();
        Plan plan = new Plan(
                steps,
                changes,
                noted,
                new Plan.Reading(
                        compares() ? new FactDifferences(table, dialect, target).all() : Differences.NONE,
                        counts(replaces, inserted),
                        counted(inserted),
                        Optional.of(RowValidation.setAside()),
                        Optional.empty(),
                        isDirect() ? direct.found() : lookupSteps.tally().found(),
                        Optional.empty(),
                        Optional.empty()));
        return isDirect() ? plan.lookingBack(direct.lookingBack()) : plan;
    }

    private boolean cancels() {
        return table.definition().deletions().isPresent();
    }

    /** Whether every row is a new fact and all lookups only tell its keys, so that the rows go straight into the table. */
    private boolean isDirect() {
        return size.isFirst()
                && !standsInGrain()
                && !cancels()
                && table.definition().replaces().isEmpty()
                && lookupSteps.changesNothing();
    }

    /** Whether rows are held against facts that are there; in rows that are only added, and in the first, there is nothing to compare. */
    private boolean compares() {
        return !table.isAppended() && !isDirect();
    }

    /** A cancellation needs no members, unless they are part of the grain. */
    private boolean looksUpSome() {
        return cancels() && !hasRoleInGrain();
    }

    private List<String> carried() {
        List<String> names = new ArrayList<>(List.of("zk_deletes"));
        names.addAll(table.stagedGrainNames());
        table.degenerate().forEach(column -> names.add(column.name()));
        table.definition()
                .measures()
                .forEach(measure -> names.add(measure.name().text()));
        return names;
    }

    private boolean hasRoleInGrain() {
        return table.definition().lookups().stream().anyMatch(table.definition()::isGrain);
    }

    /** Whether a reserved member may be part of a grain, so that rows which name different members can come to one grain. */
    private boolean standsInGrain() {
        return table.definition().lookups().stream()
                .anyMatch(lookup -> table.definition().isGrain(lookup) && lookup.standsIn());
    }

    /** The columns whose values may contradict each other, but for those of lookups. */
    private List<String> compared() {
        List<String> names = new ArrayList<>(List.of("zk_deletes"));
        table.degenerate().forEach(column -> names.add(column.name()));
        table.definition()
                .measures()
                .forEach(measure -> names.add(measure.name().text()));
        return names;
    }

    private RowValidation sieve() {
        List<String> keys = new ArrayList<>(table.stagedGrainNames());
        List<String> mayBeNull = new ArrayList<>();
        List<String> values = compared();
        for (LookupSql lookup : lookups) {
            if (table.definition().isGrain(lookup.lookup())) {
                keys.addAll(lookup.matches());
                if (lookup.lookup().blank() != Blank.SET_ASIDE) {
                    mayBeNull.addAll(lookup.matches());
                }
            }
            values.addAll(lookup.inputs());
        }
        RowValidation sieve = new RowValidation(dialect, keys, List.of(), values).withNullIn(mayBeNull);
        for (LookupSql lookup : lookups) {
            for (int position = 0; position < lookup.matches().size(); position++) {
                sieve.showing(
                        lookup.matches().get(position),
                        lookup.lookup().match().get(position).text());
            }
        }
        return sieve;
    }

    private String loaded() {
        String carried = dialect.list(carried(), name -> dialect.column("r", name));
        String keys = loading.storedKeys(lookups);
        String found = "select r.zk_row, " + carried + keys + "\nfrom " + RESOLVED + " as r\nwhere "
                + dialect.lacks(OUT.name(), "r");
        String without = lookups.stream()
                .map(lookup -> ", cast(null as bigint), cast(null as smallint)"
                        + (lookup.lookup().memberColumn().isPresent() ? ", cast(null as bigint)" : ""))
                .collect(Collectors.joining());
        return looksUpSome()
                ? found + "\nunion all\nselect r.zk_row, " + carried + without + "\nfrom " + ROWS
                        + " as r\nwhere r.zk_deletes"
                : found;
    }

    /** Rows that come to one grain only by the key of a reserved member, where that takes the place of several members. */
    private Step oneGrain() {
        List<String> values = compared();
        lookups.stream()
                .filter(lookup -> !table.definition().isGrain(lookup.lookup()))
                .forEach(lookup -> values.add(FactTable.keyName(lookup.lookup())));
        return RowValidation.duplicatesAmong(
                LOADED,
                table.grainNames(),
                values,
                table.definition().grain().stream().map(Word::text).collect(Collectors.joining(", ")),
                dialect);
    }

    private Step refusal() {
        String sql = Sql.of("""
                select n.zk_row, 'setAside', 'repeat', ${grain_names}, ${no_text}
                from ${loaded} as n
                join ${target} as f on ${same_grain}
                where not n.zk_deletes""")
                .with(LOADED)
                .with(
                        "grain_names",
                        dialect.text(table.definition().grain().stream()
                                .map(Word::text)
                                .collect(Collectors.joining(", "))))
                .with("no_text", dialect.noText())
                .with("target", target)
                .with("same_grain", dialect.allEqual(table.grainNames(), "n", "f"))
                .text();
        return new Step.Append(
                Step.caption("repeats", "The definition sets rows aside whose grain is there already."), OUT, sql);
    }

    private String met() {
        String cancelled = "n.zk_deletes then case when " + image.isMarked() + " then 'same' else "
                + (image.marks() ? "'mark'" : "'remove'") + " end";
        String differs = table.definition().onRepeat() == OnRepeat.UPDATE
                ? dialect.anyDiffers(table.comparedNames(), "n", "f") + (image.marks() ? " or " + image.isMarked() : "")
                : "false";
        return Sql.of("""
                select n.zk_row, case ${cancelled}when ${differs} then 'update' else 'same' end as zk_change
                from ${loaded} as n
                join ${target} as f on ${same_grain}""")
                .with(LOADED)
                .with("cancelled", cancels() ? "when " + cancelled + " " : "")
                .with("differs", differs)
                .with("target", target)
                .with("same_grain", dialect.allEqual(table.grainNames(), "n", "f"))
                .text();
    }

    private String changes() {
        return Sql.of("""
                select m.zk_change, n.zk_row, ${image}
                from ${met} as m
                join ${loaded} as n on n.zk_row = m.zk_row
                join ${target} as f on ${same_grain}
                where m.zk_change <> 'same'""")
                .with(MET, LOADED)
                .with("image", image.of(false))
                .with("target", target)
                .with("same_grain", dialect.allEqual(table.grainNames(), "n", "f"))
                .text();
    }

    /** SQL for the number of new facts: all rows that take part and meet none; cancellations are not counted so simply. */
    private String inserted() {
        if (cancels()) {
            return "(select count(*) " + added("") + ")";
        }
        return compares()
                ? "(" + RowValidation.takingNumber() + " - (select count(distinct zk_row) from " + MET + "))"
                : RowValidation.takingNumber();
    }

    /** The rows that become new facts, alias {@code n}. */
    private String added(String joined) {
        String isNew = compares() ? " and " + dialect.lacks(MET.name(), "n") : "";
        return "from " + LOADED + " as n" + joined + "\nwhere not n.zk_deletes" + isNew;
    }

    /**
     * The rows whose values count, with their grain as one text; a cancellation says nothing of members, and of what is a feed's, only
     * new facts do.
     */
    private String told(LookupSql lookup) {
        String staged = "\njoin " + DELIVERY + " as i on i.zk_row = n.zk_row";
        boolean isAsInserted = table.definition().onRepeat() == OnRepeat.IGNORE
                || table.definition().isFed(lookup.lookup().role().text());
        String rows = isAsInserted ? added(staged) : "from " + LOADED + " as n" + staged + "\nwhere not n.zk_deletes";
        String inputs = lookups.stream()
                .flatMap(each -> each.inputs().stream())
                .map(input -> ", i." + input)
                .collect(Collectors.joining());
        return "select " + (table.isAppended() ? "''" : table.grainText(dialect, "n")) + " as zk_grain, n.*" + inputs
                + "\n" + rows;
    }

    /** The same of a lookup that is made once more. */
    private String toldDirectly(LookupSql lookup, DirectLookups direct) {
        List<String> carried = new ArrayList<>(table.stagedGrainNames());
        carried.addAll(lookup.inputs());
        return "select " + table.grainText(dialect, "n") + " as zk_grain, n.*\nfrom (\n" + direct.of(lookup, carried)
                + "\n) as n";
    }

    /** @param inserted SQL for the number of new facts */
    private List<Counting> counts(boolean replaces, String inserted) {
        boolean ignores = table.definition().onRepeat() == OnRepeat.IGNORE;
        String rest = "staged - repeated - aside - waiting - inserted - updated";
        String sql = Sql.of("""
                select staged, inserted, updated, ${unchanged}, ${ignored}, repeated, aside, waiting, removed${no_longer_delivered}, 0, 0
                from (select count(*) as staged from ${delivery}) as d,
                  (
                    select count(case when zk_outcome = 'repeated' then 1 end) as repeated,
                      count(case when zk_outcome = 'setAside' then 1 end) as aside,
                      count(case when zk_outcome = 'waiting' then 1 end) as waiting
                    from ${out}
                  ) as o,
                  (
                    select ${inserted} as inserted, ${updated_and_removed}
                  ) as c""")
                .with(DELIVERY, OUT)
                .with("unchanged", ignores ? "0" : rest)
                .with("ignored", ignores ? rest : "0")
                .with("no_longer_delivered", replaces ? " + (select count(*) from " + REMOVED + ")" : "")
                .with("inserted", inserted)
                .with(
                        "updated_and_removed",
                        compares()
                                ? "(select count(*) from " + CHANGES + ") as updated, (select count(*) from " + CHANGES
                                        + " where zk_change = 'remove') as removed"
                                : "0 as updated, 0 as removed")
                .text();
        return List.of(new Counting(FactLoad.COUNTED, sql));
    }

    private String counted(String inserted) {
        String updated =
                compares() ? "(select count(*) from " + CHANGES + " where zk_change in ('update', 'mark'))" : "0";
        return "select " + inserted + ", " + updated;
    }
}
