/** Tables written out as open files for readers elsewhere. */
@NullMarked
package dev.zeitkammer.publish;

import org.jspecify.annotations.NullMarked;
