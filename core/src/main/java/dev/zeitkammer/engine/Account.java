package dev.zeitkammer.engine;

import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.OptionalLong;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * How many rows statements said they wrote into each scratch table. An engine can lose rows that it said it wrote; what is
 * decided from a scratch table is only right where all of them stand.
 */
final class Account {

    private final Map<String, Long> said = new LinkedHashMap<>();
    private final Set<String> open = new LinkedHashSet<>();

    /** A statement said that it added so many rows to a scratch table; what stood in it was known, or stays unknown. */
    void add(String scratch, OptionalLong rows) {
        if (said.containsKey(scratch)) {
            set(scratch, rows.isPresent() ? OptionalLong.of(said.get(scratch) + rows.getAsLong()) : rows);
        }
    }

    /** The scratch tables that hold more than so many rows. */
    List<String> largerThan(long rows) {
        return said.keySet().stream()
                .filter(scratch -> said.get(scratch) > rows)
                .toList();
    }

    /** A scratch table was made with so many rows; empty where the engine did not say. */
    void set(String scratch, OptionalLong rows) {
        if (rows.isPresent()) {
            said.put(scratch, rows.getAsLong());
            open.add(scratch);
        } else {
            forget(scratch);
        }
    }

    void forget(String scratch) {
        said.remove(scratch);
        open.remove(scratch);
    }

    void clear() {
        said.clear();
        open.clear();
    }

    /** The scratch tables that were written since the last comparison. */
    List<String> open() {
        return List.copyOf(open);
    }

    /**
     * Compares what was written since the last comparison.
     *
     * @param standing the rows that stand in each of {@link #open}
     * @throws LostRowsException when some of them are missing, or more stand there
     */
    void compare(Map<String, Long> standing) {
        String lost = open.stream()
                .filter(scratch -> !Objects.equals(said.get(scratch), standing.get(scratch)))
                .map(scratch ->
                        said.get(scratch) + " rows into " + scratch + ", where " + standing.get(scratch) + " stand")
                .collect(Collectors.joining("; "));
        open.clear();
        if (!lost.isEmpty()) {
            throw new LostRowsException("it wrote " + lost);
        }
    }
}
