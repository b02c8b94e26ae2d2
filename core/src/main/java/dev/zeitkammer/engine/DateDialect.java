package dev.zeitkammer.engine;

import java.time.LocalDate;

/** How a warehouse reckons with dates and moments. */
public interface DateDialect extends Spelling {

    /** A moment so many units later, such as {@code 2 month}. */
    default String later(String moment, String number, String unit) {
        return moment + " + interval '" + number + "' " + unit;
    }

    /** A moment so many units earlier. */
    default String earlier(String moment, String number, String unit) {
        return moment + " - interval '" + number + "' " + unit;
    }

    /** A timestamp a microsecond before another. */
    default String momentBefore(String timestamp) {
        return "(" + timestamp + " - interval '1 microsecond')";
    }

    /** A moment before all others. */
    default String always(SqlType type) {
        return cast("'-infinity'", type);
    }

    /** A moment after all others. */
    default String forever(SqlType type) {
        return cast("'infinity'", type);
    }

    /** The smallest step later: a day for a date, a microsecond for a timestamp. */
    String nextMoment(String moment, SqlType type);

    /** The day before a date. */
    String dayBefore(String date);

    /** A query of one column {@code day}: every day from the first to the last. */
    String days(LocalDate first, LocalDate last);

    /** The minute in which a time or a timestamp falls, as a time. */
    default String minuteOf(String moment, SqlType type) {
        String timestamp = type.equals(SqlType.TIME) ? "(" + date(LocalDate.EPOCH) + " + " + moment + ")" : moment;
        return cast("date_trunc('minute', " + timestamp + ")", SqlType.TIME);
    }

    /** A query of one column {@code minute}: every minute of a day, as a time. */
    String minutes();

    /** A year, month, day, ISO week and the like of a date, as an integer; {@code part} is an ISO or SQL field name. */
    default String part(String part, String date) {
        return "cast(extract(" + part + " from " + date + ") as integer)";
    }
}
