/** The rules of a dimension load, as steps: what a staged row means for its member, and the rows that follow from it. */
@NullMarked
package dev.zeitkammer.dimension;

import org.jspecify.annotations.NullMarked;
