package dev.zeitkammer.engine;

import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.OptionalLong;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * How many rows statements said they wrote into each scratch table. An engine can lose rows that it said it wrote; what is
 * decided from a scratch table is only right where all of them stand.
 */
final class Account {

    private static final Pattern CREATES =
            Pattern.compile("create (?:or replace )?temp(?:orary)? table \"?(zk_\\w+)\"? as\\s");
    private static final Pattern APPENDS = Pattern.compile("\\s*insert into \"?(zk_\\w+)\"?\\s");

    private final Map<String, Long> said = new LinkedHashMap<>();
    private final Set<String> open = new LinkedHashSet<>();

    /**
     * Enters what a statement said it wrote.
     *
     * @param rows the number of rows; empty where the engine did not say
     */
    void enter(String sql, OptionalLong rows) {
        Matcher created = CREATES.matcher(sql);
        if (created.find()) {
            set(created.group(1), rows);
            return;
        }
        Matcher appended = APPENDS.matcher(sql);
        if (appended.lookingAt() && said.containsKey(appended.group(1))) {
            set(
                    appended.group(1),
                    rows.isPresent() ? OptionalLong.of(said.get(appended.group(1)) + rows.getAsLong()) : rows);
        }
    }

    /** Whether a statement makes a scratch table of a query, or adds rows to one. */
    static boolean concerns(String sql) {
        return CREATES.matcher(sql).find() || APPENDS.matcher(sql).lookingAt();
    }

    /** A scratch table was made with so many rows. */
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
