package dev.zeitkammer.books;

import org.jspecify.annotations.Nullable;

/**
 * A staged row that was not loaded.
 *
 * @param reason one of the reasons of the rules, such as {@code bad value}
 * @param column the column concerned, where there is one
 * @param value the value concerned, or what is wrong with the line
 * @param file the file it came from, and {@code line} the line on which it begins
 * @param text the row as it stood there
 */
public record SetAsideRow(
        long load,
        String table,
        String reason,
        @Nullable String column,
        @Nullable String value,
        @Nullable String file,
        long line,
        @Nullable String text) {}
