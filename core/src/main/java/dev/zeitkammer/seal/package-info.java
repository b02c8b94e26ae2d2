/** Seals: sums over the rows of tables, by which a change behind the program's back is noticed. */
@org.jspecify.annotations.NullMarked
package dev.zeitkammer.seal;
