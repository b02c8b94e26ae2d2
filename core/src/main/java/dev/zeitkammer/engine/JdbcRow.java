package dev.zeitkammer.engine;

import java.sql.Date;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** The current row of a JDBC result. */
public final class JdbcRow implements Row {

    private final ResultSet rows;
    private final Function<SQLException, WarehouseException> failure;
    private final boolean readsModernTypes;

    /**
     * @param failure puts the words of the driver into those of the engine
     * @param readsModernTypes whether the driver gives values of java.time when asked for them
     */
    public JdbcRow(ResultSet rows, Function<SQLException, WarehouseException> failure, boolean readsModernTypes) {
        this.rows = rows;
        this.failure = failure;
        this.readsModernTypes = readsModernTypes;
    }

    private interface Reading<T> {
        T read() throws SQLException;
    }

    private <T extends @Nullable Object> T reading(Reading<T> reading) {
        try {
            return reading.read();
        } catch (SQLException failed) {
            throw failure.apply(failed);
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

    private boolean hasZone(int column) {
        return reading(() -> rows.getMetaData().getColumnTypeName(column)).equals("timestamptz");
    }

    @Override
    public @Nullable Object value(int column) {
        Object value = reading(() -> rows.getObject(column));
        if (readsModernTypes && value instanceof java.util.Date) {
            Class<?> type = value instanceof Timestamp
                    ? hasZone(column) ? OffsetDateTime.class : LocalDateTime.class
                    : value instanceof Time ? LocalTime.class : LocalDate.class;
            return reading(() -> rows.getObject(column, type));
        }
        if (value instanceof Timestamp timestamp) {
            return timestamp.toLocalDateTime();
        }
        if (value instanceof Date date) {
            return date.toLocalDate();
        }
        return value instanceof Time time ? time.toLocalTime() : value;
    }
}
