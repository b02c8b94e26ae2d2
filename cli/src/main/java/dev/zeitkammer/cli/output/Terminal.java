package dev.zeitkammer.cli.output;

import java.util.OptionalInt;

/** The terminal that the program writes to, if it writes to one. */
final class Terminal {

    /** Where the launcher says how wide it is. */
    private static final String COLUMNS = "COLUMNS";

    /** Where it says how high it is. */
    private static final String LINES = "LINES";

    private Terminal() {}

    /** How many characters go into a line; empty where the output goes elsewhere, or nobody knows. */
    static OptionalInt width() {
        return told(COLUMNS);
    }

    /** How many lines it shows; empty where the output goes elsewhere, or nobody knows. */
    static OptionalInt height() {
        return told(LINES);
    }

    private static OptionalInt told(String name) {
        String number = System.console() == null ? null : System.getenv(name);
        return number != null && number.matches("[1-9]\\d{0,4}")
                ? OptionalInt.of(Integer.parseInt(number))
                : OptionalInt.empty();
    }
}
