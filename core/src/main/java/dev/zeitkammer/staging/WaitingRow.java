package dev.zeitkammer.staging;

import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A staged row that waits for somebody: it is kept as it was staged, and staged again with the next delivery.
 *
 * @param input the input whose row it is, with its scope: {@code <join>/<input>}, {@code feed/<input>}
 * @param row its number among those that wait, from {@link #FIRST}; until it is kept, that of its delivery
 * @param since the load that began to keep it; 0 until it is kept
 * @param reason for what it waits: {@link #NO_PARTNER}, {@code unmatched} or {@code no fact}
 * @param column the column or input concerned, and {@code value} the value that nobody has
 * @param file where it stood, as messages show it, with its line and its text
 * @param values its staged values as texts, by column in lower case
 */
public record WaitingRow(
        String input,
        long row,
        long since,
        String reason,
        @Nullable String column,
        @Nullable String value,
        @Nullable String file,
        long line,
        @Nullable String text,
        Map<String, @Nullable String> values) {

    /** The reason of a row of a join that lacks a partner in another input. */
    public static final String NO_PARTNER = "no partner";

    /** Numbers of rows that waited begin here; each load has a range of its own, so that their order is that of age. */
    public static final long FIRST = 1_000_000_000_000_000L;

    /**
     * They end before this number. Where rows are staged inside a transaction, as in a rehearsal or for a feed, the embedded engine
     * gives them places from 36028797018960000 on until it commits: those have not waited.
     */
    private static final long END = 36_000_000_000_000_000L;

    private static final long RANGE = 1_000_000_000L;

    /** Rows that a join makes of those that waited are in the upper half of the range. */
    private static final long JOINED = RANGE / 2;

    /** The number of the nth row that a load begins to keep, from 1. */
    public static long number(long load, long nth) {
        return FIRST + load * RANGE + nth;
    }

    /** SQL for the number of a joined row, of the number of the row that waited and one of its own, be that from {@link #END} on. */
    static String joined(String waited, String own) {
        return waited + " - " + waited + " % " + RANGE + " + " + JOINED + " + " + own + " % " + RANGE;
    }

    /** SQL for whether the row of a number waited. */
    public static String hasWaited(String row) {
        return "(" + row + " >= " + FIRST + " and " + row + " < " + END + ")";
    }

    /** SQL for a number that is the greater the later a row was delivered. */
    public static String delivered(String row) {
        return "case when " + hasWaited(row) + " then " + row + " - " + row + " % " + RANGE + " else " + Long.MAX_VALUE
                + " end";
    }

    /** The same as a load begins to keep it. */
    public WaitingRow kept(long load, long number) {
        return new WaitingRow(input, number, load, reason, column, value, file, line, text, values);
    }
}
