package dev.zeitkammer.engine.duckdb;

import java.math.BigDecimal;
import java.sql.SQLException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.List;
import org.duckdb.DuckDBAppender;
import org.jspecify.annotations.Nullable;

/** Hands rows of this process over to the embedded engine. */
final class Appending {

    private Appending() {}

    /** @return how many there were */
    static long rows(DuckDBAppender appender, Iterable<List<@Nullable Object>> rows) throws SQLException {
        long appended = 0;
        for (List<@Nullable Object> row : rows) {
            appended++;
            appender.beginRow();
            for (Object value : row) {
                append(appender, value);
            }
            appender.endRow();
        }
        return appended;
    }

    private static void append(DuckDBAppender appender, @Nullable Object value) throws SQLException {
        if (value == null) {
            appender.appendNull();
        } else if (value instanceof Long number) {
            appender.append(number.longValue());
        } else if (value instanceof Integer number) {
            appender.append(number.intValue());
        } else if (value instanceof Boolean flag) {
            appender.append(flag.booleanValue());
        } else if (value instanceof BigDecimal number) {
            appender.append(number);
        } else if (value instanceof Float number) {
            appender.append(number.floatValue());
        } else if (value instanceof Double number) {
            appender.append(number.doubleValue());
        } else if (value instanceof LocalDate date) {
            appender.append(date);
        } else if (value instanceof LocalDateTime moment) {
            appender.append(moment);
        } else if (value instanceof LocalTime time) {
            appender.append(time);
        } else {
            appender.append(value.toString());
        }
    }
}
