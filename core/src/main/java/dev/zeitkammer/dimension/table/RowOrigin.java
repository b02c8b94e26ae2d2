package dev.zeitkammer.dimension.table;

import java.util.Locale;

/** Where a row of a dimension comes from; the value of {@code row_origin}. */
public enum RowOrigin {
    /** A delivery. */
    SOURCE,
    /** A fact that came before its member. */
    PLACEHOLDER,
    /** It stands in for unknown or not applicable members. */
    RESERVED;

    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }
}
