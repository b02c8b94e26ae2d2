package dev.zeitkammer.fact;

import static dev.zeitkammer.fact.FactPlan.CHANGES;
import static dev.zeitkammer.fact.FactPlan.LOADED;
import static dev.zeitkammer.lookup.LookupSteps.RESOLVED;
import static dev.zeitkammer.step.RowValidation.DELIVERY;
import static dev.zeitkammer.step.RowValidation.OUT;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Feed.WithoutFact;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.members.PlaceholderMembers;
import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSteps;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.DeliveryRows;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** The steps by which a feed writes some columns of facts that are there already; one row may reach several facts. */
final class FeedPlan {

    private final FactLoading loading;
    private final FactTable table;
    private final Feed feed;
    private final List<LookupSql> lookups;
    private final List<String> measures;
    private final Dialect dialect;
    private final String target;
    private final Stamp stamp;
    private final PlaceholderMembers missing;
    private final LookupSteps lookupSteps;
    private final List<String> matched;
    private Optional<StoredValues> stored = Optional.empty();

    FeedPlan(FactLoading loading, Feed feed, List<LookupSql> lookups, List<String> measures) {
        this.loading = loading;
        this.table = loading.table();
        this.feed = feed;
        this.lookups = List.copyOf(lookups);
        this.measures = List.copyOf(measures);
        this.dialect = loading.dialect();
        this.target = loading.target();
        this.stamp = loading.stamp();
        this.missing = loading.placeholders(this.lookups);
        this.lookupSteps = new LookupSteps(lookups, dialect, missing);
        this.matched = feed.stored().stream().map(Word::text).toList();
    }

    /** With values that are computed of what the facts hold already. */
    FeedPlan with(StoredValues values) {
        stored = Optional.of(values).filter(StoredValues::any);
        return this;
    }

    Plan plan(DeliveryRows delivery) {
        List<String> values = new ArrayList<>(measures);
        lookups.forEach(lookup -> values.addAll(lookup.inputs()));
        RowValidation sieve = new RowValidation(dialect, matched, List.of(), values);
        for (int index = 0; index < matched.size(); index++) {
            sieve.showing(matched.get(index), feed.match().get(index).text());
        }
        List<Step> steps = new ArrayList<>(sieve.steps(delivery));
        steps.add(sieve.rows());
        steps.add(new Step.Append(Step.caption("rows without a fact", "A feed never inserts."), OUT, noFact()));
        steps.addAll(lookupSteps.steps(ROWS.name()));
        steps.add(new Step.Name(
                Step.caption("loaded rows", "The rows with the keys that they found."), LOADED, loaded()));
        steps.add(new Step.Keep(
                Step.caption("changes", "The facts that each row reaches; kept where anything differs."),
                CHANGES,
                changes()));
        steps.addAll(lookupSteps.guards(ROWS.name()));
        List<Change<TableChange>> changes = new ArrayList<>(missing.changes());
        changes.add(written());
        List<Change<BookChange>> noted = new ArrayList<>(missing.noted());
        noted.addAll(new WaitingFacts(loading).noting(lookups, lookup -> told()));
        return new Plan(
                steps,
                changes,
                noted,
                new Plan.Reading(
                        new FactDifferences(table, dialect, target).fed(writtenNames()),
                        counts(),
                        "select 0, count(*) from " + CHANGES,
                        Optional.of(RowValidation.setAside()),
                        Optional.empty(),
                        lookupSteps.tally().found(),
                        Optional.empty(),
                        Optional.empty()));
    }

    private String noFact() {
        return Sql.of("""
                select zk_r.zk_row, '${outcome}', 'no fact', ${match}, ${no_text}
                from ${rows} as zk_r
                where not exists (select 1 from ${target} as f where ${matches_fact})""")
                .with("no_text", dialect.noText())
                .with(ROWS)
                .with("outcome", feed.withoutFact() == WithoutFact.WAIT ? RowValidation.WAITING : "setAside")
                .with(
                        "match",
                        dialect.text(feed.match().stream().map(Word::text).collect(Collectors.joining(", "))))
                .with("target", target)
                .with("matches_fact", dialect.allEqual(matched, "zk_r", "f"))
                .text();
    }

    private String loaded() {
        String keys = loading.storedKeys(lookups);
        return "select d.*" + keys + "\nfrom " + ROWS + " as d\njoin " + RESOLVED + " as r on r.zk_row = d.zk_row";
    }

    private List<String> writtenNames() {
        List<String> names = new ArrayList<>();
        lookups.stream().map(LookupSql::lookup).flatMap(FactTable::keyNames).forEach(names::add);
        names.addAll(measures);
        names.addAll(storedNames());
        return names;
    }

    private List<String> storedNames() {
        return stored.map(StoredValues::names).orElse(List.of());
    }

    /** The alias under which a written column stands: of the rows, or of what is computed beside the facts. */
    private String source(String name) {
        return storedNames().contains(name) ? "k" : "n";
    }

    private String differs() {
        return writtenNames().stream()
                .map(name -> dialect.anyDiffers(List.of(name), source(name), "f"))
                .collect(Collectors.joining(" or "));
    }

    private String changes() {
        return Sql.of("""
                select n.zk_row, ${grain}, ${written}, ${now} as ${updated_at}, cast(${load} as bigint) as ${updated_by}
                from ${loaded} as n
                join ${target} as f on ${matches_fact}${stored_values}
                where ${differs}""")
                .with(LOADED)
                .with("grain", dialect.list(table.grainNames(), name -> dialect.column("f", name)))
                .with("written", dialect.list(writtenNames(), name -> dialect.column(source(name), name)))
                .with("stored_values", stored.map(StoredValues::joined).orElse(""))
                .with("now", dialect.timestamp(stamp.at()))
                .with("updated_at", dialect.quote(table.stamp(AuditColumn.UPDATED_AT)))
                .with("load", stamp.load())
                .with("updated_by", dialect.quote(table.stamp(AuditColumn.UPDATED_BY)))
                .with("target", target)
                .with("matches_fact", dialect.allEqual(matched, "n", "f"))
                .with("differs", differs())
                .text();
    }

    private Change<TableChange> written() {
        List<String> set = new ArrayList<>(writtenNames());
        set.add(table.stamp(AuditColumn.UPDATED_AT));
        set.add(table.stamp(AuditColumn.UPDATED_BY));
        return Change.of(
                new TableChange.Rewrite(
                        Step.caption("update facts", "The columns of the feed are written over the facts."),
                        target,
                        new Matching(CHANGES, dialect.allEqual(table.grainNames(), "t", "c")),
                        TableChange.same(dialect, set)),
                Flag.any(CHANGES));
    }

    /** The rows whose values count, each with the grain of a fact that it reaches, as one text. */
    private String told() {
        return "select " + table.grainText(dialect, "f") + " as zk_grain, n.* from " + LOADED + " as n join " + target
                + " as f on " + dialect.allEqual(matched, "n", "f");
    }

    private List<Counting> counts() {
        String sql = """
                select staged, 0, updated, staged - repeated - aside - waiting - updated, 0, repeated, aside, waiting, 0, 0, 0
                from (select count(*) as staged from %s) as d,
                  (
                    select count(case when zk_outcome = 'repeated' then 1 end) as repeated,
                      count(case when zk_outcome = 'setAside' then 1 end) as aside,
                      count(case when zk_outcome = 'waiting' then 1 end) as waiting
                    from %s
                  ) as o,
                  (select count(distinct zk_row) as updated from %s) as c""".formatted(DELIVERY, OUT, CHANGES);
        return List.of(new Counting(FactLoad.COUNTED, sql));
    }
}
