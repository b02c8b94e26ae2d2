package dev.zeitkammer.cli.output;

import java.util.OptionalInt;

/** The terminal that the program writes to, if it writes to one. */
final class Terminal {

    /** Where the launcher says how wide it is. */
    private static final String COLUMNS = "COLUMNS";

    private Terminal() {}

    /** How many characters go into a line; empty where the output goes elsewhere, or nobody knows. */
    static OptionalInt width() {
        String columns = System.console() == null ? null : System.getenv(COLUMNS);
        return columns != null && columns.matches("[1-9]\\d{0,4}")
                ? OptionalInt.of(Integer.parseInt(columns))
                : OptionalInt.empty();
    }
}
