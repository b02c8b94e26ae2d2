package dev.zeitkammer.definition;

import java.time.Duration;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * A statement or a command of the user's own that runs at a place in the load.
 *
 * @param name how outputs call it
 * @param isBefore whether it runs before its anchor, else after it
 * @param on how that must have ended after which it runs
 * @param anchor load, dimensions, facts, or the name of a table's definition
 * @param sql a statement for the warehouse; empty: a command runs
 * @param command a program and its arguments; empty: a statement runs
 * @param inTransaction whether the statement is part of the table's own transaction
 * @param stops whether the load stops where it fails; else that is only said
 * @param limit how long it may take
 */
public record ExtraStep(
        Word name,
        boolean isBefore,
        On on,
        String anchor,
        Optional<Word> sql,
        List<String> command,
        boolean inTransaction,
        boolean stops,
        Duration limit) {

    /** Places that are no table. */
    public static final String LOAD = "load";

    public static final String DIMENSIONS = "dimensions";
    public static final String FACTS = "facts";

    /** How a table's load, or all of it, ended. */
    public enum On {
        DONE,
        /** An error ended it. */
        FAILURE,
        /** A guard stopped it. */
        STOPPED
    }

    public ExtraStep {
        command = List.copyOf(command);
    }

    /** Where it runs, in words. */
    public String where() {
        return (isBefore ? "before " : "after ")
                + (anchor.equals(LOAD) ? "the load" : anchor)
                + (on == On.DONE ? "" : ", on " + on.name().toLowerCase(Locale.ROOT))
                + (inTransaction ? ", in its transaction" : "");
    }
}
