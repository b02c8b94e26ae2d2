package dev.zeitkammer.load;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.engine.Caption;
import java.util.List;

/** Hears what a load is doing, as it does it. */
public interface LoadListener {

    /** Hears nothing. */
    LoadListener NONE = new LoadListener() {};

    /** A step begins. */
    default void step(String table, Caption step) {}

    /** Something the reader should know that changes nothing. */
    default void notes(String table, List<String> notes) {}

    /** A table ended, well or not. */
    default void ended(TableEntry entry) {}

    /** The cause of a failure, for those who want to see it whole. */
    default void cause(Throwable cause) {}
}
