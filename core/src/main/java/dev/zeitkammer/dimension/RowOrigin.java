package dev.zeitkammer.dimension;

import java.util.Locale;

/** Where a row of a dimension comes from; the value of {@code row_origin}. */
enum RowOrigin {
    /** A delivery. */
    SOURCE,
    /** A fact that came before its member. */
    PLACEHOLDER,
    /** It stands in for unknown or not applicable members. */
    RESERVED;

    String word() {
        return name().toLowerCase(Locale.ROOT);
    }
}
