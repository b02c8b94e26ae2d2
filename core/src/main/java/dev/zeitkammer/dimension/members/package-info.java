/** Members that no delivered row makes: reserved ones, placeholders and combinations, absent ones, and their ancestors. */
@NullMarked
package dev.zeitkammer.dimension.members;

import org.jspecify.annotations.NullMarked;
