/** The general way of a load: timelines of members rebuilt from everything that was ever stated about them. */
@NullMarked
package dev.zeitkammer.dimension.timeline;

import org.jspecify.annotations.NullMarked;
