package dev.zeitkammer.books;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What one load did to one table.
 *
 * @param kind {@code dimension} or {@code fact}
 * @param inserted rows added to the table
 * @param updated rows changed in the table
 * @param counts the staged rows by outcome, in the order of the outputs
 * @param lookups for each role, the staged rows by what the lookup found
 * @param unmatched the natural keys for which lookups found nobody, the most frequent first
 * @param assertions how the assertions of the load went
 * @param error why it failed, stopped, was skipped or blocked, or is known without having been read
 */
public record TableEntry(
        String table,
        String kind,
        LoadStatus status,
        double seconds,
        long inserted,
        long updated,
        Map<String, Long> counts,
        Map<String, Map<String, Long>> lookups,
        List<UnmatchedValue> unmatched,
        List<JudgedAssertion> assertions,
        Optional<String> error) {

    /**
     * A natural key for which a lookup found nobody.
     *
     * @param found {@code unmatched}, {@code placeholders} (its member was made) or {@code blank} (there was no value)
     * @param rows the staged rows that have it
     */
    public record UnmatchedValue(String role, String found, String value, long rows) {}

    public TableEntry {
        counts = Collections.unmodifiableMap(new LinkedHashMap<>(counts));
        lookups = Collections.unmodifiableMap(new LinkedHashMap<>(lookups));
        unmatched = List.copyOf(unmatched);
        assertions = List.copyOf(assertions);
    }

    /** An entry for a table that was not loaded. */
    public static TableEntry without(String table, String kind, LoadStatus status, double seconds, String why) {
        return new TableEntry(
                table, kind, status, seconds, 0, 0, Map.of(), Map.of(), List.of(), List.of(), Optional.of(why));
    }

    /** Whether what depends on the table may be loaded. */
    public boolean isLoaded() {
        return status == LoadStatus.DONE || status == LoadStatus.SKIPPED;
    }

    /** The staged rows of which any lookup found this, such as {@code unmatched}; a row counts once for each role. */
    public long lookedUp(String found) {
        return lookups.values().stream()
                .mapToLong(words -> words.getOrDefault(found, 0L))
                .sum();
    }

    public long count(String name) {
        return counts.getOrDefault(name, 0L);
    }
}
