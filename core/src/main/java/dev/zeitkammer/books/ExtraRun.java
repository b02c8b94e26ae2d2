package dev.zeitkammer.books;

/**
 * How an extra step of a load went.
 *
 * @param where where it ran, in words
 * @param status done, failed, stopped (it took too long) or taken back with its table; in a rehearsal: would run
 * @param output what a command said, its last lines; of a statement that failed, why
 */
public record ExtraRun(String name, String where, String status, double seconds, String output) {

    public static final String DONE = "done";
    public static final String FAILED = "failed";
    public static final String STOPPED = "stopped";
    public static final String TAKEN_BACK = "taken back";
    public static final String UNCHANGED = "unchanged";
    public static final String WOULD_RUN = "would run";

    /** The same, taken back with the transaction that it was part of. */
    public ExtraRun takenBack() {
        return new ExtraRun(name, where, TAKEN_BACK, seconds, output);
    }

    public boolean isDone() {
        return !status.equals(FAILED) && !status.equals(STOPPED);
    }
}
