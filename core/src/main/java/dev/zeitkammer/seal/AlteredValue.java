package dev.zeitkammer.seal;

import org.jspecify.annotations.Nullable;

/**
 * A value that somebody changed by hand.
 *
 * @param row the key of its row
 * @param known the value that is known; of a row that came or went, whether it was there
 * @param standing the value that stands
 */
public record AlteredValue(
        String row,
        String column,
        @Nullable String known,
        @Nullable String standing) {}
