/** Looking at what stands in the warehouse: rows of a table, the versions of a member. */
@NullMarked
package dev.zeitkammer.view;

import org.jspecify.annotations.NullMarked;
