package dev.zeitkammer.engine.duckdb;

import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.WarehouseException;
import java.sql.Date;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.LocalDateTime;
import org.jspecify.annotations.Nullable;

/** The current row of a JDBC result. */
final class DuckDbRow implements Row {

    private final ResultSet rows;

    DuckDbRow(ResultSet rows) {
        this.rows = rows;
    }

    private interface Reading<T> {
        T read() throws SQLException;
    }

    private static <T extends @Nullable Object> T reading(Reading<T> reading) {
        try {
            return reading.read();
        } catch (SQLException failed) {
            throw new WarehouseException(DuckDbMessages.inShort(failed), failed);
        }
    }

    @Override
    public int width() {
        return reading(() -> rows.getMetaData().getColumnCount());
    }

    @Override
    public @Nullable String text(int column) {
        return reading(() -> rows.getString(column));
    }

    @Override
    public long number(int column) {
        return reading(() -> rows.getLong(column));
    }

    @Override
    public boolean flag(int column) {
        return reading(() -> rows.getBoolean(column));
    }

    @Override
    public @Nullable LocalDateTime timestamp(int column) {
        return (LocalDateTime) value(column);
    }

    @Override
    public @Nullable Object value(int column) {
        Object value = reading(() -> rows.getObject(column));
        if (value instanceof Timestamp timestamp) {
            return timestamp.toLocalDateTime();
        }
        if (value instanceof Date date) {
            return date.toLocalDate();
        }
        return value instanceof Time time ? time.toLocalTime() : value;
    }
}
