/** Proofs, on whole tables, of what must always hold. */
@NullMarked
package dev.zeitkammer.verify;

import org.jspecify.annotations.NullMarked;
