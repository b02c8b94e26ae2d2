/** The table of a dimension: its columns with their roles, what a row of it says, its surrogate keys, and when its versions hold. */
@NullMarked
package dev.zeitkammer.dimension.table;

import org.jspecify.annotations.NullMarked;
