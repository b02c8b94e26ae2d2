/** The tool's books in schema {@code zeitkammer}: loads with their counts, rows set aside, highest keys, types once decided. */
@NullMarked
package dev.zeitkammer.books;

import org.jspecify.annotations.NullMarked;
