package dev.zeitkammer.definition;

import java.time.DayOfWeek;
import java.time.LocalDate;
import java.util.Locale;

/**
 * The days of a calendar dimension, both ends included.
 *
 * @param language the language of the names of months and days
 * @param fiscalYearStarts the month with which a fiscal year begins, from 1; the year is named after the one in which it ends
 * @param weekNumbers whether weeks are numbered too, the one of 1 January being the first of its year
 * @param weekStarts the day with which a week begins; ISO weeks begin on Monday whatever stands here
 */
public record CalendarDays(
        LocalDate first,
        LocalDate last,
        Locale language,
        int fiscalYearStarts,
        DayOfWeek weekStarts,
        boolean weekNumbers) {}
