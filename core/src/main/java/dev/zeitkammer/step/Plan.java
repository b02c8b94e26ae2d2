package dev.zeitkammer.step;

import java.util.List;
import java.util.Optional;

/**
 * Everything that loading one delivery into one table will do, and how to read off afterwards what it did.
 *
 * @param steps the statements, in order, up to the change table
 * @param application the statements that apply the change table
 * @param differences how to read off the values that change
 * @param counts what is counted: of the table
 * @param written a query of (inserted, updated): the rows written to the table
 * @param setAside a query of (staged row, reason, column, text, whether it waits) in order of staged rows
 * @param highestKey a query of the highest surrogate key given, for tables that number their rows
 * @param lookups how to read off what the lookups found
 */
public record Plan(
        List<Step> steps,
        List<Step> application,
        Differences differences,
        List<Counting> counts,
        String written,
        String setAside,
        Optional<String> highestKey,
        Optional<LookupTally> lookups) {

    /** The plan of a table to which nothing is delivered. */
    public static final Plan NOTHING = new Plan(
            List.of(),
            List.of(),
            Differences.NONE,
            List.of(),
            "select 0, 0",
            "select 0, '', '', '', false where false",
            Optional.empty(),
            Optional.empty());

    /** A plan without lookups. */
    public Plan(
            List<Step> steps,
            List<Step> application,
            Differences differences,
            List<Counting> counts,
            String written,
            String setAside,
            Optional<String> highestKey) {
        this(steps, application, differences, counts, written, setAside, highestKey, Optional.empty());
    }

    /** The same with counts. */
    public Plan counting(List<Counting> counted) {
        return new Plan(steps, application, differences, counted, written, setAside, highestKey, lookups);
    }

    public Plan {
        steps = List.copyOf(steps);
        application = List.copyOf(application);
        counts = List.copyOf(counts);
    }
}
