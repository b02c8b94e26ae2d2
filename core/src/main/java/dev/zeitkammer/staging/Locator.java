package dev.zeitkammer.staging;

import java.util.List;
import java.util.TreeSet;
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

    /** The places of the rows, in order. */
    public List<Located> locate(List<Long> rows) {
        return staged.source().locate(StagedRows.TABLE, new TreeSet<>(rows));
    }
}
