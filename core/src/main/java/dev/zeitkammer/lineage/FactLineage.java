package dev.zeitkammer.lineage;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Feed;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.lineage.Flow.Part;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;

/** Reads the lineage of a fact's columns off its definition: grain, keys, degenerates, measures, and what feeds write. */
final class FactLineage {

    private final Collected collected;
    private final InputLineage inputs;
    private final LookupLineage lookups;

    FactLineage(Collected collected, InputLineage inputs) {
        this.collected = collected;
        this.inputs = inputs;
        this.lookups = new LookupLineage(collected, inputs);
    }

    void read(Fact fact) {
        Dataset table = DefinitionLineage.dataset(fact);
        fact.grain().stream()
                .filter(column -> fact.lookup(column.text()).isEmpty())
                .forEach(column -> stored(fact, table, column, "grain"));
        for (Lookup lookup : fact.lookups()) {
            String what = (fact.isGrain(lookup) ? "grain, " : "") + "key in "
                    + lookup.dimension().table()
                    + (lookup.dimension().hasHistory()
                            ? lookup.asOf()
                                    .map(asOf -> ", version valid at " + asOf)
                                    .orElse(", current version")
                            : "");
            List<Field> keys = new ArrayList<>(List.of(collected.field(table, lookup.keyColumn(), what)));
            lookup.memberColumn()
                    .ifPresent(member ->
                            keys.add(collected.field(table, member, "key that all versions of the member share")));
            if (!fact.isFed(lookup.role().text())) {
                lookups.found(fact.source(), lookup, keys);
            }
            feeding(fact, lookup.role()).forEach(feed -> lookups.found(feed.from(), lookup, keys));
        }
        fact.degenerate().forEach(column -> stored(fact, table, column, "degenerate"));
        fact.measures().forEach(measure -> measure(fact, table, measure));
        fact.deletions()
                .ifPresent(deletions -> collected.rule(
                        table,
                        "a fact is cancelled where " + InputLineage.oneLine(deletions.when()),
                        inputs.expression(fact.source(), deletions.when())));
        fact.replaces()
                .ifPresent(period -> collected.rule(
                        table,
                        "facts of a delivered " + period + " that are not delivered are removed",
                        List.of(inputs.column(fact.source(), period.text()))));
        for (Feed feed : fact.feeds()) {
            collected.rule(
                    table,
                    "fed by " + feed.from().name() + ": "
                            + feed.updates().stream().map(Word::text).collect(Collectors.joining(", ")),
                    feed.match().stream()
                            .flatMap(match -> inputs.taken(feed.from(), match).stream())
                            .toList());
        }
        if (fact.marksDeleted()) {
            collected.field(table, fact.conventions().column(AuditColumn.IS_DELETED), "whether the fact was cancelled");
        }
        AuditColumn.STAMPS.forEach(
                stamp -> collected.field(table, fact.conventions().column(stamp), "stamp of the load"));
    }

    private static List<Feed> feeding(Fact fact, Word name) {
        return fact.feeds().stream().filter(feed -> feed.writes(name.text())).toList();
    }

    private void stored(Fact fact, Dataset table, Word column, String what) {
        Word taken = fact.taken().of(column);
        Field field = collected.field(table, column.text(), what + InputLineage.expressed(column, taken));
        List<Feed> feeds = feeding(fact, column);
        if (feeds.isEmpty()) {
            collected.flow(inputs.taken(fact.source(), taken), field, Part.VALUE);
        }
        feeds.forEach(feed -> collected.flow(inputs.taken(feed.from(), taken), field, Part.VALUE));
    }

    private void measure(Fact fact, Dataset table, Measure measure) {
        Word taken = measure.take().orElse(measure.name());
        Field field = collected.field(
                table, measure.name().text(), "measure" + InputLineage.expressed(measure.name(), taken));
        List<Feed> feeds = feeding(fact, measure.name());
        if (feeds.isEmpty()) {
            collected.flow(inputs.taken(fact.source(), taken), field, Part.VALUE);
        }
        for (Feed feed : feeds) {
            collected.flow(inputs.taken(feed.from(), taken), field, Part.VALUE);
            inputs.stored(taken).forEach(name -> collected.flow(new Field(table, name), field, Part.VALUE));
        }
    }
}
