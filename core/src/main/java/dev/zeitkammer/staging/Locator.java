package dev.zeitkammer.staging;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Finds the file, line and original text of staged rows, by their numbers; only needed for rows that are set aside. */
public final class Locator {

    private final StagedRows staged;

    public Locator(StagedRows staged) {
        this.staged = staged;
    }

    /**
     * Where a staged row stands.
     *
     * @param file its file, as messages show it; its table where it has none
     * @param line its line, or the number of its record; 0 where it has none
     */
    public record Located(
            long row, String file, long line, @Nullable String text) {}

    /** The places of rows of a relation; those that waited stand where they were delivered. */
    static List<Located> locate(StagedRows staged, String relation, Collection<Long> rows) {
        List<Located> places = new ArrayList<>(staged.ofBooks().locate(rows));
        Set<Long> waited = places.stream().map(Located::row).collect(Collectors.toSet());
        TreeSet<Long> delivered = new TreeSet<>(rows);
        delivered.removeAll(waited);
        if (!delivered.isEmpty()) {
            places.addAll(staged.source().locate(relation, delivered));
        }
        return places;
    }

    /** The places of the rows, in order. */
    public List<Located> locate(List<Long> rows) {
        return locate(staged, StagedRows.TABLE, rows);
    }
}
