package dev.zeitkammer.calendar;

import dev.zeitkammer.definition.CalendarDays;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import java.time.DayOfWeek;
import java.time.Month;
import java.time.format.TextStyle;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** What stands in the columns of a calendar, as SQL over a column {@code day}. */
final class CalendarSql {

    private static final int MONTHS = Month.values().length;
    private static final int WEEKDAYS = DayOfWeek.values().length;

    private final CalendarDays days;
    private final Dialect dialect;

    CalendarSql(CalendarDays days, Dialect dialect) {
        this.days = days;
        this.dialect = dialect;
    }

    String value(CalendarColumn column) {
        return switch (column) {
            case DAY -> "day";
            case YEAR -> part("year");
            case HALF -> "case when " + part("month") + " <= 6 then 1 else 2 end";
            case QUARTER -> part("quarter");
            case MONTH -> part("month");
            case MONTH_NAME -> month(TextStyle.FULL_STANDALONE, "day");
            case MONTH_SHORT -> month(TextStyle.SHORT_STANDALONE, "day");
            case ISO_YEAR -> part("isoyear");
            case ISO_WEEK -> part("week");
            case WEEK_LABEL -> weekLabel();
            case DAY_OF_MONTH -> part("day");
            case DAY_OF_YEAR -> part("doy");
            case DAY_OF_WEEK -> weekday("day") + " + 1";
            case DAY_NAME -> weekday(TextStyle.FULL_STANDALONE);
            case DAY_SHORT -> weekday(TextStyle.SHORT_STANDALONE);
            case WEEK_NUMBER -> weekNumber();
            case IS_WEEKEND -> part("isodow") + " >= " + DayOfWeek.SATURDAY.getValue();
            case IS_HOLIDAY -> "holiday is not null";
            case HOLIDAY_NAME -> "holiday";
            case FISCAL_YEAR ->
                "case when " + fiscalMonths() + " < 0 or " + days.fiscalYearStarts() + " = 1 then " + part("year")
                        + " else " + part("year") + " + 1 end";
            case FISCAL_QUARTER -> whole("floor((" + fiscalPeriod() + " - 1) / 3.0) + 1");
            case FISCAL_PERIOD -> fiscalPeriod();
            case MONTH_FIRST_DAY -> first("month");
            case MONTH_LAST_DAY -> last("month", 1);
            case QUARTER_FIRST_DAY -> first("quarter");
            case QUARTER_LAST_DAY -> last("quarter", 3);
            case YEAR_FIRST_DAY -> first("year");
            case YEAR_LAST_DAY -> last("year", MONTHS);
        };
    }

    private String part(String part) {
        return dialect.part(part, "day");
    }

    private String whole(String number) {
        return dialect.cast(number, SqlType.INTEGER);
    }

    /** Months since the fiscal year began in this calendar year; negative before. */
    private String fiscalMonths() {
        return "(" + part("month") + " - " + days.fiscalYearStarts() + ")";
    }

    private String fiscalPeriod() {
        return "case when " + fiscalMonths() + " < 0 then " + fiscalMonths() + " + 13 else " + fiscalMonths()
                + " + 1 end";
    }

    private String first(String span) {
        return dialect.cast("date_trunc('" + span + "', day)", SqlType.DATE);
    }

    private String last(String span, int months) {
        return dialect.dayBefore(dialect.cast(
                dialect.later("date_trunc('" + span + "', day)", String.valueOf(months), "month"), SqlType.DATE));
    }

    /** Days since the week began. */
    private String weekday(String date) {
        return "((" + dialect.part("isodow", date) + " + "
                + (WEEKDAYS - days.weekStarts().getValue()) + ") % " + WEEKDAYS + ")";
    }

    /** From the first to the last day of the week; month and year are written once where both share them: 2 – 8 Mar 2026. */
    private String weekLabel() {
        String begins = "(day - " + weekday("day") + ")";
        String ends = "(day - (" + weekday("day") + " - 6))";
        String short1 = month(TextStyle.SHORT_STANDALONE, begins);
        String year1 = dialect.part("year", begins);
        String sameMonth = dialect.part("month", begins) + " = " + dialect.part("month", ends);
        String sameYear = year1 + " = " + dialect.part("year", ends);
        return "concat(" + dialect.part("day", begins)
                + ", case when " + sameMonth + " then '' else concat(' ', " + short1 + ") end"
                + ", case when " + sameYear + " then '' else concat(' ', " + year1 + ") end"
                + ", ' – ', " + dialect.part("day", ends) + ", ' ', " + month(TextStyle.SHORT_STANDALONE, ends)
                + ", ' ', " + dialect.part("year", ends) + ")";
    }

    /** The week of 1 January is the first of its year, and the next begins with the first day of a week after it. */
    private String weekNumber() {
        String sinceNewYear = part("doy") + " - 1 - " + weekday("day");
        return whole("floor((" + sinceNewYear + " + 6) / 7.0) + 1");
    }

    private String month(TextStyle style, String date) {
        return named("month", date, MONTHS, month -> Month.of(month).getDisplayName(style, days.language()));
    }

    private String weekday(TextStyle style) {
        return named("isodow", "day", WEEKDAYS, day -> DayOfWeek.of(day).getDisplayName(style, days.language()));
    }

    private String named(String part, String date, int count, IntFunction<String> name) {
        return IntStream.rangeClosed(1, count)
                .mapToObj(number -> "when " + number + " then " + dialect.text(name.apply(number)))
                .collect(Collectors.joining(" ", "case " + dialect.part(part, date) + " ", " end"));
    }
}
