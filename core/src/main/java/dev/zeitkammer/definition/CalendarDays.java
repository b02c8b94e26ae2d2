package dev.zeitkammer.definition;

import java.time.LocalDate;
import java.util.Locale;

/**
 * The days of a calendar dimension, both ends included.
 *
 * @param language the language of the names of months and days
 */
public record CalendarDays(LocalDate first, LocalDate last, Locale language) {}
