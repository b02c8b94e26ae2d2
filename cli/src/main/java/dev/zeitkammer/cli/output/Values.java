package dev.zeitkammer.cli.output;

import java.math.BigDecimal;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** Values of the warehouse as the outputs write them: dates and timestamps in ISO 8601. */
public final class Values {

    private static final int PICTURES = 0x2400;
    private static final int DELETE = 0x7F;
    private static final int DELETED = 0x2421;
    private static final int LAST_CONTROL = 0xA0;
    private static final int UNKNOWN = 0xFFFD;

    /** Signs that turn the direction of writing, so that a text looks like another one. */
    private static final int FIRST_TURN = 0x202A;

    private static final int LAST_TURN = 0x202E;
    private static final int FIRST_ISOLATE = 0x2066;
    private static final int LAST_ISOLATE = 0x2069;
    private static final String NULL = "null";
    private static final long KILO = 1000;

    private Values() {}

    /** For people; null is the word. */
    static String shown(@Nullable Object value) {
        return value == null ? NULL : safe(plain(value));
    }

    /** For people; when a row was written, to the second. */
    static String shown(@Nullable Object value, boolean stamp) {
        return shown(stamp && value instanceof LocalDateTime at ? at.truncatedTo(ChronoUnit.SECONDS) : value);
    }

    /** A text with pictures for control characters, so that data cannot steer the terminal. */
    static String safe(String text) {
        StringBuilder safe = new StringBuilder();
        text.chars().forEach(character -> safe.append(shown(character)));
        return safe.toString();
    }

    /** The same of a text of several lines. */
    static String safeLines(String text) {
        StringBuilder safe = new StringBuilder();
        text.chars().forEach(character -> safe.append(steers(character) ? shown(character) : (char) character));
        return safe.toString();
    }

    /** Whether a character would steer a terminal, other than by ending a line or a column. */
    static boolean steers(int character) {
        return character != '\n' && character != '\t' && shown(character) != character;
    }

    private static char shown(int character) {
        if (character < ' ') {
            return (char) (PICTURES + character);
        }
        if (character == DELETE) {
            return (char) DELETED;
        }
        boolean turns = (character >= FIRST_TURN && character <= LAST_TURN)
                || (character >= FIRST_ISOLATE && character <= LAST_ISOLATE);
        return (char) (turns || (character > DELETE && character < LAST_CONTROL) ? UNKNOWN : character);
    }

    /** Moments always to the second, and finer where they are. */
    static String plain(Object value) {
        if (value instanceof LocalDateTime moment) {
            return DateTimeFormatter.ISO_LOCAL_DATE_TIME.format(moment);
        }
        if (value instanceof OffsetDateTime moment) {
            return DateTimeFormatter.ISO_OFFSET_DATE_TIME.format(moment.withOffsetSameInstant(ZoneOffset.UTC));
        }
        if (value instanceof LocalTime time) {
            return DateTimeFormatter.ISO_LOCAL_TIME.format(time);
        }
        return value instanceof BigDecimal number ? number.toPlainString() : value.toString();
    }

    /** For JSON: numbers and booleans as they are, everything else as text. */
    static @Nullable Object json(@Nullable Object value) {
        return value == null || value instanceof Number || value instanceof Boolean ? value : plain(value);
    }

    /** A number for people; nothing for 0. */
    static String count(long number) {
        return number == 0 ? "" : String.valueOf(number);
    }

    /** Bytes as a person reads them. */
    public static String room(long bytes) {
        if (bytes < KILO) {
            return bytes + " B";
        }
        if (bytes < KILO * KILO) {
            return bytes / KILO + " kB";
        }
        return bytes < KILO * KILO * KILO
                ? bytes / KILO / KILO + " MB"
                : String.format(Locale.ROOT, "%.1f GB", bytes / (double) (KILO * KILO * KILO));
    }
}
