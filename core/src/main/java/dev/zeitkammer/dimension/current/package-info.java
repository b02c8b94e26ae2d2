/** The short way of a load: rows beside the current version of their member, and what follows for the table. */
@NullMarked
package dev.zeitkammer.dimension.current;

import org.jspecify.annotations.NullMarked;
