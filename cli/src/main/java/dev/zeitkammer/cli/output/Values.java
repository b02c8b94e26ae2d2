package dev.zeitkammer.cli.output;

import java.math.BigDecimal;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import org.jspecify.annotations.Nullable;

/** Values of the warehouse as the outputs write them: dates and timestamps in ISO 8601. */
final class Values {

    private static final String NULL = "null";

    private Values() {}

    /** For people; null is the word. */
    static String shown(@Nullable Object value) {
        return value == null ? NULL : plain(value).replace("\r", "␍").replace("\n", "␊");
    }

    /** For people; when a row was written, to the second. */
    static String shown(@Nullable Object value, boolean stamp) {
        return shown(stamp && value instanceof LocalDateTime at ? at.truncatedTo(ChronoUnit.SECONDS) : value);
    }

    static String plain(Object value) {
        return value instanceof BigDecimal number ? number.toPlainString() : value.toString();
    }

    /** For JSON: numbers and booleans as they are, everything else as text. */
    static @Nullable Object json(@Nullable Object value) {
        return value == null || value instanceof Number || value instanceof Boolean ? value : value.toString();
    }

    /** A number for people; nothing for 0. */
    static String count(long number) {
        return number == 0 ? "" : String.valueOf(number);
    }
}
