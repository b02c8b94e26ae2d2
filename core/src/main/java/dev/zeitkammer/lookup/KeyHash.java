package dev.zeitkammer.lookup;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.stream.Collectors;

/** Surrogate keys from a hash. Each part of a business key is written with its length, so that no two keys read alike. */
public final class KeyHash {

    private KeyHash() {}

    /**
     * 63 bits of a hash over a business key and the running number of the member's version.
     *
     * @param parts SQL for the parts of the business key
     * @param number SQL for the number of the version, from 1
     */
    public static String of(Dialect dialect, List<String> parts, String number) {
        return dialect.hash63(text(dialect, parts) + " || '#' || (" + number + ")");
    }

    /** The parts as one text; null is written like no value. */
    public static String text(Dialect dialect, List<String> parts) {
        return parts.stream()
                .map(part -> dialect.cast(part, SqlType.VARCHAR))
                .map(text -> "coalesce(length(" + text + ") || ':' || " + text + ", 'null')")
                .collect(Collectors.joining(" || '/' || "));
    }
}
