package dev.zeitkammer.engine;

import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.time.temporal.ChronoField;
import java.util.Collection;
import java.util.Locale;
import java.util.function.Function;
import java.util.stream.Collectors;

/** How a warehouse writes names, literals, types and conversions. */
public interface Spelling {

    DateTimeFormatter TIMESTAMP_FORMAT = new DateTimeFormatterBuilder()
            .appendPattern("uuuu-MM-dd HH:mm:ss")
            .appendFraction(ChronoField.NANO_OF_SECOND, 0, 6, true)
            .toFormatter(Locale.ROOT);

    /** An identifier, quoted. */
    default String quote(String identifier) {
        return '"' + identifier.replace("\"", "\"\"") + '"';
    }

    /** A column of a table alias. */
    default String column(String alias, String name) {
        return alias + "." + quote(name);
    }

    /** Columns, quoted and separated by commas. */
    default String columns(Collection<String> names) {
        return list(names, this::quote);
    }

    /** Items rendered and separated by commas. */
    default <T> String list(Collection<T> items, Function<? super T, String> rendering) {
        return items.stream().map(rendering).collect(Collectors.joining(", "));
    }

    /** A text literal. */
    default String text(String value) {
        return "'" + value.replace("'", "''") + "'";
    }

    default String date(LocalDate value) {
        return "date '" + value + "'";
    }

    /** A timestamp literal, to the microsecond. */
    default String timestamp(LocalDateTime value) {
        return "timestamp '" + TIMESTAMP_FORMAT.format(value) + "'";
    }

    /** The type as this engine writes it. */
    String type(SqlType type);

    /** A cast that gives null where the value does not fit. */
    String tryCast(String expression, SqlType type);

    default String cast(String expression, SqlType type) {
        return "cast(" + expression + " as " + type(type) + ")";
    }

    /**
     * Whether a text is of a form; null of null.
     *
     * @param form a regular expression of character classes, groups that are not kept, alternatives and counts, from {@code ^} to
     *     {@code $}, which means the end of the text and of nothing else
     */
    String matches(String text, String form);

    /** A value as a text. */
    default String asText(String expression) {
        return cast(expression, SqlType.VARCHAR);
    }

    /** A text that is null. */
    default String noText() {
        return asText("null");
    }
}
