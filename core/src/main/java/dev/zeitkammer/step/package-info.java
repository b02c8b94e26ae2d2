/**
 * A load as a value: an ordered list of named steps, each with its purpose and its SQL. {@code explain} prints the list,
 * {@code load} runs it.
 */
@NullMarked
package dev.zeitkammer.step;

import org.jspecify.annotations.NullMarked;
