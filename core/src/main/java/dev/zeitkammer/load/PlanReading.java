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
        reading.lookups().ifPresent(lookups -> lookedUp(lookups, tally));
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

    /** All numbers in one query: the rows written, the highest key, and what is counted. */
    private Map<String, Long> counts(Reading reading, Tally tally) {
        List<Counting> due = reading.counts().stream()
                .filter(counting -> run.isSo(counting.onlyIf()))
                .toList();
        List<String> queries = new ArrayList<>(List.of(reading.written()));
        reading.highestKey().ifPresent(queries::add);
        due.forEach(counting -> queries.add(counting.sql()));
        int first = reading.highestKey().isPresent() ? 3 : 2;
        List<String> names =
                due.stream().flatMap(counting -> counting.names().stream()).toList();
        List<Long> read = warehouse
                .query(
                        beside(queries),
                        row -> IntStream.rangeClosed(1, first + names.size())
                                .mapToObj(row::number)
                                .toList())
                .get(0);
        tally.written(read.get(0), read.get(1));
        if (reading.highestKey().isPresent() && read.get(2) > 0) {
            books.noteHighestKey(definition.table(), read.get(2));
        }
        Map<String, Long> own = new LinkedHashMap<>();
        for (int index = 0; index < names.size(); index++) {
            own.merge(names.get(index), read.get(first + index), Long::sum);
        }
        return own;
    }

    /** The rows of queries side by side, each of which has one. */
    private static String beside(List<String> queries) {
        return IntStream.range(0, queries.size())
                .mapToObj(index -> "(\n" + SqlText.indented(queries.get(index), 2) + "\n) as numbers_" + index)
                .collect(Collectors.joining(", ", "select *\nfrom ", ""));
    }

    /** What was found, and the values that found nobody, of those roles in which some did. */
    private void lookedUp(LookupTally lookups, Tally tally) {
        Map<String, Map<String, Long>> found = run.counted();
        tally.add(found);
        Set<String> roles = new TreeSet<>(found.keySet());
        roles.removeIf(role ->
                lookups.nobody().stream().allMatch(word -> found.get(role).getOrDefault(word, 0L) == 0));
        lookups.unmatched()
                .apply(roles)
                .ifPresent(query -> tally.add(warehouse.query(
                        query,
                        row -> new UnmatchedValue(
                                String.valueOf(row.text(1)),
                                String.valueOf(row.text(2)),
                                String.valueOf(row.text(3)),
                                row.number(4)))));
    }
}
