/** What definitions must be beside one another: names that differ, facts that can be loaded, an order of work. */
@NullMarked
package dev.zeitkammer.definition.check;

import org.jspecify.annotations.NullMarked;
