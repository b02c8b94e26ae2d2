package dev.zeitkammer.step;

import java.util.List;
import java.util.Optional;

/**
 * A query that reads off counts once the steps have run.
 *
 * @param names what is counted, in the order of the outputs
 * @param sql one row with a number for each name; numbers of one name are added up
 * @param onlyIf what must be so, else there is nothing to count
 */
public record Counting(List<String> names, String sql, Optional<Flag> onlyIf) {

    public Counting(List<String> names, String sql) {
        this(names, sql, Optional.empty());
    }

    public Counting {
        names = List.copyOf(names);
    }
}
