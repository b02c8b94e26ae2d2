package dev.zeitkammer.staging;

import java.util.List;
import java.util.Locale;

/**
 * The names of staged columns. Plain identifiers are in lower case, whatever a source writes, so that expressions find them on
 * every engine without quotes; a name that begins like the program's own columns gets {@code staged_} before it, an empty one is
 * {@code nameless}; every other name stays as it is.
 */
final class Names {

    /** How the program's own columns of staged rows begin; a source's column of such a name gets another beginning. */
    private static final String OWN = "zk_";

    /** What the engine calls the place of a row. */
    private static final String PLACE = "rowid";

    private static final String FOREIGN = "staged_";
    private static final String NAMELESS = "nameless";

    private Names() {}

    static String of(String written) {
        if (written.isEmpty()) {
            return NAMELESS;
        }
        String name = written.matches("[A-Za-z_][A-Za-z0-9_]*") ? written.toLowerCase(Locale.ROOT) : written;
        return isOwn(name) ? FOREIGN + name : name;
    }

    /** Whether the program calls columns of its own so, which no expression means. */
    static boolean isOwn(String name) {
        String folded = name.toLowerCase(Locale.ROOT);
        return folded.startsWith(OWN) || folded.equals(PLACE);
    }

    /** The name as the source writes it. */
    static String written(List<String> originals, String name) {
        return originals.stream()
                .filter(original -> name.equalsIgnoreCase(of(original)))
                .findFirst()
                .orElse(name);
    }
}
