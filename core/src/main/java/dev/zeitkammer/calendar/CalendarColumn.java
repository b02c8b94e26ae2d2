package dev.zeitkammer.calendar;

import dev.zeitkammer.engine.SqlType;
import java.util.Locale;

/** The columns of a calendar. */
enum CalendarColumn {
    DAY(SqlType.DATE),
    YEAR(SqlType.INTEGER),
    HALF(SqlType.INTEGER),
    QUARTER(SqlType.INTEGER),
    MONTH(SqlType.INTEGER),
    MONTH_NAME(SqlType.VARCHAR),
    MONTH_SHORT(SqlType.VARCHAR),
    ISO_YEAR(SqlType.INTEGER),
    ISO_WEEK(SqlType.INTEGER),
    WEEK_LABEL(SqlType.VARCHAR),
    DAY_OF_MONTH(SqlType.INTEGER),
    DAY_OF_YEAR(SqlType.INTEGER),
    DAY_OF_WEEK(SqlType.INTEGER),
    DAY_NAME(SqlType.VARCHAR),
    DAY_SHORT(SqlType.VARCHAR),
    WEEK_NUMBER(SqlType.INTEGER),
    IS_WEEKEND(SqlType.BOOLEAN),
    IS_HOLIDAY(SqlType.BOOLEAN),
    HOLIDAY_NAME(SqlType.VARCHAR),
    FISCAL_YEAR(SqlType.INTEGER),
    FISCAL_QUARTER(SqlType.INTEGER),
    FISCAL_PERIOD(SqlType.INTEGER),
    MONTH_FIRST_DAY(SqlType.DATE),
    MONTH_LAST_DAY(SqlType.DATE),
    QUARTER_FIRST_DAY(SqlType.DATE),
    QUARTER_LAST_DAY(SqlType.DATE),
    YEAR_FIRST_DAY(SqlType.DATE),
    YEAR_LAST_DAY(SqlType.DATE);

    private final SqlType type;

    CalendarColumn(SqlType type) {
        this.type = type;
    }

    SqlType type() {
        return type;
    }

    /** Whether a list of holidays decides its value. */
    boolean isOfHolidays() {
        return this == IS_HOLIDAY || this == HOLIDAY_NAME;
    }

    String columnName() {
        return name().toLowerCase(Locale.ROOT);
    }
}
