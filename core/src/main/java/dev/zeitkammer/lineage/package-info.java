/** Where columns come from and what uses them, read from the definitions. */
@NullMarked
package dev.zeitkammer.lineage;

import org.jspecify.annotations.NullMarked;
