/** Turning natural keys, and dates, into surrogate keys: the same for facts and for dimensions that look others up. */
@NullMarked
package dev.zeitkammer.lookup;

import org.jspecify.annotations.NullMarked;
