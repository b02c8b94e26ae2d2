package dev.zeitkammer.load;

import dev.zeitkammer.books.JudgedAssertion;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.engine.LostRowsException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** What the deliveries to one table add up to. */
final class Tally {

    private final Map<String, Map<String, Long>> counts = new LinkedHashMap<>();
    private final List<UnmatchedValue> unmatched = new ArrayList<>();
    private final List<JudgedAssertion> assertions = new ArrayList<>();
    private long inserted;
    private long updated;
    private int writings;
    private Optional<String> note = Optional.empty();

    /** Adds counts by role; those of the table itself have none. */
    void add(Map<String, Map<String, Long>> more) {
        more.forEach((role, numbers) -> numbers.forEach((name, rows) ->
                counts.computeIfAbsent(role, known -> new LinkedHashMap<>()).merge(name, rows, Long::sum)));
    }

    void add(List<UnmatchedValue> more) {
        unmatched.addAll(more);
    }

    /** Adds how an assertion went. */
    void add(JudgedAssertion judged) {
        assertions.add(judged);
    }

    /** Says how it is known. */
    void note(String how) {
        note = Optional.of(how);
    }

    /** A count of the table itself. */
    long count(String name) {
        return counts.getOrDefault("", Map.of()).getOrDefault(name, 0L);
    }

    boolean written(long insertedRows, long updatedRows) {
        inserted += insertedRows;
        updated += updatedRows;
        writings += updatedRows > 0 || insertedRows > 0 ? 1 : 0;
        return true;
    }

    /** Whether several deliveries wrote rows, so that one row may have been counted more than once. */
    boolean mayCountTwice() {
        return writings > 1 && updated > 0;
    }

    boolean anyWritten() {
        return inserted > 0 || updated > 0;
    }

    /**
     * Compares what the plans say was written with the rows that stand and carry the number of the load. Where several deliveries
     * wrote, a row may have been updated more than once, or after it was inserted.
     *
     * @throws LostRowsException where it is not the same
     */
    void compare(long insertedRows, long updatedRows) {
        boolean sameUpdates = mayCountTwice() ? updatedRows <= updated : updatedRows == updated;
        if (insertedRows != inserted || !sameUpdates) {
            throw new LostRowsException("it wrote " + inserted + " new rows and " + updated + " changed ones, where "
                    + insertedRows + " and " + updatedRows + " stand");
        }
        updated = updatedRows;
    }

    boolean anyCount() {
        return counts.values().stream()
                .flatMap(numbers -> numbers.values().stream())
                .anyMatch(count -> count > 0);
    }

    TableEntry entry(String table, String kind, double seconds) {
        Map<String, Map<String, Long>> lookups = new LinkedHashMap<>(counts);
        Map<String, Long> own = Optional.ofNullable(lookups.remove("")).orElse(Map.of());
        return new TableEntry(
                table, kind, LoadStatus.DONE, seconds, inserted, updated, own, lookups, unmatched, assertions, note);
    }
}
