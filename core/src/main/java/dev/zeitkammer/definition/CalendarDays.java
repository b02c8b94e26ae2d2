package dev.zeitkammer.definition;

import java.time.LocalDate;
import java.util.Locale;

/**
 * The days of a calendar dimension, both ends included.
 *
 * @param language the language of the names of months and days
 * @param fiscalYearStarts the month with which a fiscal year begins, from 1; the year is named after the one in which it ends
 */
public record CalendarDays(LocalDate first, LocalDate last, Locale language, int fiscalYearStarts) {}
