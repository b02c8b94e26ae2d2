package dev.zeitkammer.engine.duckdb;

import java.sql.SQLException;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Says in a developer's words what the driver reports; its errors carry no SQLState, only texts. */
final class DuckDbMessages {

    private static final Pattern HOLDER = Pattern.compile("PID (\\d+)");

    /** What the driver says around the engine's own words when a statement fails at its second half. */
    private static final String FRAME = "closed pending query result\nError: ";

    private static final String OUT_OF_MEMORY = "Out of Memory Error";

    private DuckDbMessages() {}

    static boolean isOpenElsewhere(SQLException refused) {
        return String.valueOf(refused.getMessage()).contains("Could not set lock");
    }

    static String whyNotOpened(SQLException refused) {
        String message = String.valueOf(refused.getMessage());
        if (message.contains("not a valid DuckDB database file")) {
            return "this file exists and belongs to another program; it was left as it is; name another file under"
                    + " warehouses: in zeitkammer.yaml";
        }
        if (isOpenElsewhere(refused)) {
            Matcher holder = HOLDER.matcher(message);
            return "it is open in another program" + (holder.find() ? " (process " + holder.group(1) + ")" : "")
                    + "; an embedded warehouse is open in one program at a time: close it there, then run this again, or wait for it with --wait";
        }
        if (message.contains("Permission denied")) {
            return "no permission to read and write this file";
        }
        if (message.contains("No such file or directory")) {
            return "its folder does not exist";
        }
        return inShort(refused);
    }

    /** The message without the excerpt of the statement that the driver adds. */
    static String inShort(SQLException failed) {
        String message = String.valueOf(failed.getMessage());
        int cause = message.indexOf(FRAME);
        message = cause < 0 ? message : message.substring(cause + FRAME.length());
        if (message.startsWith(OUT_OF_MEMORY)) {
            return message.lines().findFirst().orElse(OUT_OF_MEMORY)
                    + "; give the embedded engine more with memory: in zeitkammer.yaml, such as memory: 4GB";
        }
        int excerpt = message.indexOf("\nLINE ");
        return (excerpt < 0 ? message : message.substring(0, excerpt)).strip();
    }
}
