package dev.zeitkammer.books;

import java.util.Locale;

/** How a load, or the load of one table, ended. */
public enum LoadStatus {
    /** Everything was loaded. */
    DONE,
    /** An error; nothing of the table was changed. */
    FAILED,
    /** A guard stopped it; nothing of the table was changed. */
    STOPPED,
    /** There was no delivery. */
    SKIPPED,
    /** It depends on a table that was not loaded. */
    BLOCKED,
    /** It was loaded, and taken back. */
    UNDONE,
    /** It has begun and not ended; when no load is running, it was cut off. */
    RUNNING;

    /** The word that outputs and books use. */
    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    public static LoadStatus fromWord(String word) {
        return valueOf(word.toUpperCase(Locale.ROOT));
    }
}
