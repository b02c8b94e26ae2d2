package dev.zeitkammer.staging;

import org.jspecify.annotations.Nullable;

/**
 * Something in a delivery that is no staged row.
 *
 * @param reason {@code bad line}; or {@code bad value}, for rows of an input that another input is made of; or {@code no
 *     partner}, for rows of a join
 * @param column the column concerned, where there is one
 * @param value the value concerned, or what is wrong with the line
 * @param file the file, as messages show it, and {@code line} the line on which it begins
 */
public record Unusable(
        String reason,
        @Nullable String column,
        @Nullable String value,
        String file,
        long line,
        @Nullable String text) {}
