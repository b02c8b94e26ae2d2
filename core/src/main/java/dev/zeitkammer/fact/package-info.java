/** The rules of a fact load, as steps: lookups, and what a staged row means for the fact of its grain. */
@NullMarked
package dev.zeitkammer.fact;

import org.jspecify.annotations.NullMarked;
