/** Makes tables fit the definitions, and destroys nothing: creates, adds columns, widens types, refuses the rest. */
@NullMarked
package dev.zeitkammer.align;

import org.jspecify.annotations.NullMarked;
