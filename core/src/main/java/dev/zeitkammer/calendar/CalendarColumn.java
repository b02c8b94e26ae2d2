package dev.zeitkammer.calendar;

import dev.zeitkammer.engine.SqlType;
import java.util.Locale;

/** The columns of a calendar. */
enum CalendarColumn {
    DAY(SqlType.DATE),
    YEAR(SqlType.INTEGER),
    QUARTER(SqlType.INTEGER),
    MONTH(SqlType.INTEGER),
    MONTH_NAME(SqlType.VARCHAR),
    ISO_YEAR(SqlType.INTEGER),
    ISO_WEEK(SqlType.INTEGER),
    DAY_OF_MONTH(SqlType.INTEGER),
    DAY_OF_YEAR(SqlType.INTEGER),
    DAY_OF_WEEK(SqlType.INTEGER),
    DAY_NAME(SqlType.VARCHAR);

    private final SqlType type;

    CalendarColumn(SqlType type) {
        this.type = type;
    }

    SqlType type() {
        return type;
    }

    String columnName() {
        return name().toLowerCase(Locale.ROOT);
    }
}
