package dev.zeitkammer.cli.output;

import java.util.List;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Rows as RFC 4180 has them, with plain line feeds; null is an empty field, an empty text a quoted one. */
final class Csv {

    private Csv() {}

    static String line(List<? extends @Nullable Object> values) {
        return values.stream().map(Csv::field).collect(Collectors.joining(","));
    }

    private static String field(@Nullable Object value) {
        if (value == null) {
            return "";
        }
        String text = Values.plain(value);
        boolean special = text.isEmpty() || text.chars().anyMatch(character -> ",\"\r\n".indexOf(character) >= 0);
        return special ? '"' + text.replace("\"", "\"\"") + '"' : text;
    }
}
