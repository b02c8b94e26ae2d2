/** Statements and commands of the user's own that run at a place in the load. */
@NullMarked
package dev.zeitkammer.extra;

import org.jspecify.annotations.NullMarked;
