package dev.zeitkammer.engine.database;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.WarehouseException;
import java.math.BigDecimal;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.NoSuchElementException;
import org.jspecify.annotations.Nullable;

/** The rows of a result, one by one, as plain Java values. */
final class JdbcRows implements Iterator<List<@Nullable Object>> {

    private final ResultSet rows;
    private final List<Column> columns;
    private final boolean[] zoned;
    private final boolean[] padded;
    private long number;
    private boolean ahead;
    private boolean ended;

    JdbcRows(ResultSet rows, List<Column> columns) throws SQLException {
        this.rows = rows;
        this.columns = columns;
        this.zoned = new boolean[columns.size()];
        this.padded = new boolean[columns.size()];
        for (int index = 0; index < columns.size(); index++) {
            String type = rows.getMetaData().getColumnTypeName(index + 1);
            zoned[index] = type.equalsIgnoreCase("timestamptz")
                    || rows.getMetaData().getColumnType(index + 1) == Types.TIMESTAMP_WITH_TIMEZONE;
            padded[index] = rows.getMetaData().getColumnType(index + 1) == Types.CHAR;
        }
    }

    @Override
    public boolean hasNext() {
        if (!ahead && !ended) {
            try {
                ahead = rows.next();
                ended = !ahead;
            } catch (SQLException lost) {
                throw new WarehouseException("after " + number + " rows: " + lost.getMessage(), lost);
            }
        }
        return ahead;
    }

    @Override
    public List<@Nullable Object> next() {
        if (!hasNext()) {
            throw new NoSuchElementException();
        }
        ahead = false;
        number++;
        List<@Nullable Object> values = new ArrayList<>(columns.size());
        for (int index = 0; index < columns.size(); index++) {
            values.add(value(index));
        }
        return values;
    }

    private @Nullable Object value(int index) {
        Column column = columns.get(index);
        try {
            Object value = read(index + 1, column, zoned[index]);
            return padded[index] && value instanceof String text ? text.stripTrailing() : value;
        } catch (SQLException | ArithmeticException unfit) {
            throw new WarehouseException(
                    "row " + number + ", column " + column.name() + ": " + unfit.getMessage()
                            + "; a query can cast it to a text",
                    unfit);
        }
    }

    private @Nullable Object read(int index, Column column, boolean withZone) throws SQLException {
        Object value = switch (column.type().kind()) {
            case BOOLEAN -> rows.getBoolean(index);
            case SMALLINT, INTEGER -> rows.getInt(index);
            case BIGINT -> rows.getLong(index);
            case DECIMAL -> decimal(rows.getBigDecimal(index), column);
            case REAL -> rows.getFloat(index);
            case DOUBLE -> rows.getDouble(index);
            case DATE -> finite(rows.getObject(index, LocalDate.class));
            case TIMESTAMP -> withZone ? inUtc(index) : finite(rows.getObject(index, LocalDateTime.class));
            case TIME -> rows.getObject(index, LocalTime.class);
            case VARCHAR -> rows.getString(index);
        };
        return rows.wasNull() ? null : value;
    }

    private static @Nullable BigDecimal decimal(@Nullable BigDecimal value, Column column) {
        return value == null ? null : value.setScale(column.type().scale());
    }

    private @Nullable LocalDateTime inUtc(int index) throws SQLException {
        OffsetDateTime value = rows.getObject(index, OffsetDateTime.class);
        return value == null
                ? null
                : finite(value.withOffsetSameInstant(ZoneOffset.UTC).toLocalDateTime());
    }

    private static <T> @Nullable T finite(@Nullable T moment) throws SQLException {
        boolean infinite = LocalDate.MAX.equals(moment)
                || LocalDate.MIN.equals(moment)
                || LocalDateTime.MAX.equals(moment)
                || LocalDateTime.MIN.equals(moment);
        if (infinite) {
            throw new SQLException("infinity is no date");
        }
        return moment;
    }
}
