package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.SetAsideReading.NotLoaded;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.LookupTally;
import dev.zeitkammer.step.Plan.Reading;
import dev.zeitkammer.step.Sieve;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** Reads off what a plan did, and enters in the books what belongs to single rows. */
final class PlanReading {

    private final Project project;
    private final Warehouse warehouse;
    private final Definition definition;
    private final Stamp stamp;
    private final PlanRun run;
    private final Books books;

    PlanReading(Project project, Warehouse warehouse, Definition definition, Stamp stamp, PlanRun run) {
        this.project = project;
        this.warehouse = warehouse;
        this.definition = definition;
        this.stamp = stamp;
        this.run = run;
        this.books = new Books(warehouse);
    }

    /** @param staged the rows that were delivered; null where nothing was */
    void read(Reading reading, Tally tally, @Nullable StagedRows staged) {
        Map<String, Long> counts = counts(reading);
        if (staged != null && reading.setAside().isPresent()) {
            notLoaded(reading.setAside().get(), counts, staged);
        }
        tally.add(Map.of("", counts));
        reading.highestKey()
                .map(warehouse::number)
                .filter(highest -> highest > 0)
                .ifPresent(highest -> books.noteHighestKey(definition.table(), highest));
        warehouse.query(reading.written(), row -> tally.written(row.number(1), row.number(2)));
        reading.lookups().ifPresent(lookups -> found(tally, lookups));
    }

    private void notLoaded(String setAside, Map<String, Long> counts, StagedRows staged) {
        SetAsideReading aside = new SetAsideReading(warehouse, stamp, definition.table());
        List<SetAsideRow> set = new ArrayList<>(aside.unusable(staged));
        long unusable = set.size();
        long waiting = staged.waiting().size();
        counts.computeIfPresent("staged", (name, rows) -> rows + unusable + waiting);
        counts.computeIfPresent("setAside", (name, rows) -> rows + unusable);
        counts.computeIfPresent(Sieve.WAITING, (name, rows) -> rows + waiting);
        NotLoaded notLoaded = aside.of(setAside, staged);
        set.addAll(notLoaded.setAside());
        books.keep(set);
        new DeliveryBooks(project, warehouse, definition, stamp).enter(staged, set, notLoaded.waiting());
    }

    private Map<String, Long> counts(Reading reading) {
        Map<String, Long> own = new LinkedHashMap<>();
        for (Counting counting : reading.counts()) {
            if (run.isSo(counting.onlyIf())) {
                count(counting, own);
            }
        }
        return own;
    }

    private void count(Counting counting, Map<String, Long> numbers) {
        warehouse.query(counting.sql(), row -> {
            for (int index = 0; index < counting.names().size(); index++) {
                numbers.merge(counting.names().get(index), row.number(index + 1), Long::sum);
            }
            return true;
        });
    }

    private void found(Tally tally, LookupTally lookups) {
        Map<String, Map<String, Long>> found = new LinkedHashMap<>();
        Set<String> unmatched = new TreeSet<>();
        warehouse.query(lookups.counts(), row -> {
            String role = String.valueOf(row.text(1));
            String word = String.valueOf(row.text(2));
            if (row.number(3) > 0 && lookups.nobody().contains(word)) {
                unmatched.add(role);
            }
            return found.computeIfAbsent(role, first -> new LinkedHashMap<>()).merge(word, row.number(3), Long::sum);
        });
        tally.add(found);
        lookups.unmatched()
                .apply(unmatched)
                .ifPresent(query -> tally.add(warehouse.query(
                        query,
                        row -> new UnmatchedValue(
                                String.valueOf(row.text(1)),
                                String.valueOf(row.text(2)),
                                String.valueOf(row.text(3)),
                                row.number(4)))));
    }
}
