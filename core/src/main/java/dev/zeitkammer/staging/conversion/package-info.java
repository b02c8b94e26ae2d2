/** Texts become values of types, strictly, and types are found out from texts. */
@NullMarked
package dev.zeitkammer.staging.conversion;

import org.jspecify.annotations.NullMarked;
