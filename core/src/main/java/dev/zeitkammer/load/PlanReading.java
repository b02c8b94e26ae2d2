package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.SetAsideBooks;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.SetAsideReading.NotLoaded;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.LookupTally;
import dev.zeitkammer.step.Plan.Reading;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/** Reads off what a plan did, and enters in the books what belongs to single rows. */
final class PlanReading {

    private final Known known;
    private final Warehouse warehouse;
    private final Definition definition;
    private final Stamp stamp;
    private final PlanRun run;
    private final Books books;
    private final SetAsideBooks setAsideBooks;
    private final boolean isRehearsal;

    PlanReading(LoadContext context, Definition definition, Known known, PlanRun run) {
        this.warehouse = context.warehouse();
        this.stamp = context.stamp();
        this.isRehearsal = context.request().rehearsal();
        this.known = known;
        this.definition = definition;
        this.run = run;
        this.books = new Books(warehouse);
        this.setAsideBooks = new SetAsideBooks(warehouse);
    }

    /** @param staged the rows that were delivered; null where nothing was */
    void read(Reading reading, Tally tally, @Nullable StagedRows staged) {
        Map<String, Long> counts = counts(reading, tally);
        if (staged != null && reading.setAside().isPresent()) {
            notLoaded(reading.setAside().get(), counts, staged);
        }
        tally.add(Map.of("", counts));
        reading.lookups().ifPresent(lookups -> found(tally, lookups));
    }

    private void notLoaded(String setAside, Map<String, Long> counts, StagedRows staged) {
        SetAsideReading aside = new SetAsideReading(warehouse, stamp, definition.table());
        List<SetAsideRow> set = new ArrayList<>(aside.unusable(staged));
        long unusable = set.size();
        long waiting = staged.waiting().size();
        counts.computeIfPresent("staged", (name, rows) -> rows + unusable + waiting);
        counts.computeIfPresent("setAside", (name, rows) -> rows + unusable);
        counts.computeIfPresent(RowValidation.WAITING, (name, rows) -> rows + waiting);
        boolean any = counts.getOrDefault("setAside", 0L) > unusable
                || counts.getOrDefault(RowValidation.WAITING, 0L) > waiting;
        NotLoaded notLoaded = any ? aside.of(setAside, staged) : aside.none(staged);
        set.addAll(notLoaded.setAside());
        setAsideBooks.keep(set);
        new DeliveryBooks(warehouse, known, definition, stamp)
                .keeping(run.images())
                .rehearsed(isRehearsal)
                .enter(staged, set, notLoaded.waiting());
    }

    /** All numbers in one query: what is counted, the rows written, and the highest key. */
    private Map<String, Long> counts(Reading reading, Tally tally) {
        List<Counting> due = reading.counts().stream()
                .filter(counting -> run.isSo(counting.onlyIf()))
                .toList();
        List<String> queries = new ArrayList<>(List.of(reading.written()));
        reading.highestKey().ifPresent(queries::add);
        due.forEach(counting -> queries.add(counting.sql()));
        String sql = IntStream.range(0, queries.size())
                .mapToObj(index -> "(\n" + SqlText.indented(queries.get(index), 2) + "\n) as numbers_" + index)
                .collect(Collectors.joining(", ", "select *\nfrom ", ""));
        Map<String, Long> own = new LinkedHashMap<>();
        long highest = warehouse
                .query(sql, row -> {
                    int column = 3;
                    tally.written(row.number(1), row.number(2));
                    long key = reading.highestKey().isPresent() ? row.number(column++) : 0;
                    for (Counting counting : due) {
                        for (String name : counting.names()) {
                            own.merge(name, row.number(column++), Long::sum);
                        }
                    }
                    return key;
                })
                .get(0);
        if (highest > 0) {
            books.noteHighestKey(definition.table(), highest);
        }
        return own;
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
