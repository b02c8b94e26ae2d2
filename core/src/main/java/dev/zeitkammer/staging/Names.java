package dev.zeitkammer.staging;

import java.util.List;
import java.util.Locale;

/**
 * The names of staged columns. Plain identifiers are in lower case, whatever a source writes, so that expressions find them on
 * every engine without quotes; every other name stays as it is.
 */
final class Names {

    private Names() {}

    static String of(String written) {
        return written.matches("[A-Za-z_][A-Za-z0-9_]*") ? written.toLowerCase(Locale.ROOT) : written;
    }

    /** The name as the source writes it. */
    static String written(List<String> originals, String name) {
        return originals.stream().filter(name::equalsIgnoreCase).findFirst().orElse(name);
    }
}
