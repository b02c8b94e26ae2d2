package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.WarehouseException;
import java.sql.SQLException;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** What the cluster says, in words for the person who must act on it. */
final class SparkMessages {

    /** The words behind the last name of a class. */
    private static final Pattern CAUSE = Pattern.compile("(?:[\\w$]+\\.)+[\\w$]*(?:Exception|Error)\\b:?\\s*");

    /** The cluster's words for memory that ran out, in order, each with the settings that give more of it. */
    private static final Map<Pattern, String> SHORT_OF_MEMORY = new LinkedHashMap<>();

    static {
        raise("spark\\.driver\\.maxResultSize", "spark.driver.maxResultSize");
        raise("build and broadcast the table", "spark.driver.memory, or lower spark.sql.autoBroadcastJoinThreshold");
        raise(
                "(?i)exceeding (?:physical |virtual )?memory limits|possible container OOM|exit code 137",
                "spark.executor.memoryOverhead");
        raise("OutOfMemoryError|UNABLE_TO_ACQUIRE_MEMORY", "spark.executor.memory, or spark.sql.shuffle.partitions");
    }

    private static void raise(String words, String settings) {
        SHORT_OF_MEMORY.put(Pattern.compile(words), settings);
    }

    private SparkMessages() {}

    static WarehouseException notOpened(DatabaseAddress address, SQLException refused) {
        String why = inShort(refused);
        boolean isDown = why.contains("Could not open client transport") || why.contains("Connection refused");
        String message = "Cannot open the warehouse " + address + ": "
                + (isDown ? "no cluster answers there; is it running, and are host and port right?" : why);
        return isDown ? new BusyException(message, refused) : new WarehouseException(message, refused);
    }

    static WarehouseException failure(SQLException failed, String title) {
        String why = inShort(failed);
        if (String.valueOf(failed.getSQLState()).startsWith("08") || why.contains("TTransportException")) {
            return new WarehouseException(
                    "The connection to " + title + " was lost (" + why
                            + "); what was under way is not loaded, and loading again mends it",
                    failed);
        }
        return new WarehouseException(why + whatToRaise(String.valueOf(failed.getMessage())), failed);
    }

    /** What the keeper of the cluster may set where memory ran out; empty where it did not. */
    private static String whatToRaise(String message) {
        return SHORT_OF_MEMORY.entrySet().stream()
                .filter(memory -> memory.getKey().matcher(message).find())
                .findFirst()
                .map(memory -> ". The cluster ran out of memory: raise " + memory.getValue() + " there, and load again")
                .orElse("");
    }

    /** The first line with words of its own, without the names of classes before them. */
    private static String inShort(SQLException failed) {
        return String.valueOf(failed.getMessage())
                .lines()
                .takeWhile(line -> !line.startsWith("\tat "))
                .map(SparkMessages::behindCauses)
                .filter(line -> !line.isEmpty())
                .findFirst()
                .orElse("the cluster gave no reason");
    }

    private static String behindCauses(String line) {
        Matcher cause = CAUSE.matcher(line);
        int end = 0;
        while (cause.find()) {
            end = cause.end();
        }
        return line.substring(end).replaceFirst(" SQLSTATE: \\w+.*", "").strip();
    }
}
