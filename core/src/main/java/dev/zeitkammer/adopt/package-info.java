/** Tables that others made: what they look like, and the definition that goes on with them. */
@NullMarked
package dev.zeitkammer.adopt;

import org.jspecify.annotations.NullMarked;
