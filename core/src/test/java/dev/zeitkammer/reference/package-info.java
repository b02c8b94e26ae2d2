/** The rules once more, as lists and loops without SQL, for comparing random deliveries against. */
@NullMarked
package dev.zeitkammer.reference;

import org.jspecify.annotations.NullMarked;
