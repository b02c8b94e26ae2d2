/** Calendar dimensions: one row a day, with the labels that reports ask for. */
@NullMarked
package dev.zeitkammer.calendar;

import org.jspecify.annotations.NullMarked;
