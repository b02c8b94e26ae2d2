/** A run: the order of tables, one transaction a table, running the steps, counting, entering the books. */
@NullMarked
package dev.zeitkammer.load;

import org.jspecify.annotations.NullMarked;
