package dev.zeitkammer.engine.database;

import dev.zeitkammer.engine.SqlType;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Types;
import java.util.Optional;

/** The types of columns as drivers tell them. */
final class JdbcTypes {

    private static final int MOST_DIGITS = 38;
    private static final int UNSIGNED_BIGINT_DIGITS = 20;

    private JdbcTypes() {}

    /** The type of a column; empty where its values are to be taken as texts and looked into. */
    static Optional<SqlType> of(ResultSetMetaData data, int column) throws SQLException {
        boolean signed = data.isSigned(column);
        return switch (data.getColumnType(column)) {
            case Types.BOOLEAN -> Optional.of(SqlType.BOOLEAN);
            case Types.BIT ->
                data.getPrecision(column) <= 1 ? Optional.of(SqlType.BOOLEAN) : Optional.of(SqlType.VARCHAR);
            case Types.TINYINT, Types.SMALLINT, Types.INTEGER -> Optional.of(signed ? SqlType.INTEGER : SqlType.BIGINT);
            case Types.BIGINT -> Optional.of(signed ? SqlType.BIGINT : SqlType.decimal(UNSIGNED_BIGINT_DIGITS, 0));
            case Types.NUMERIC, Types.DECIMAL -> decimal(data.getPrecision(column), data.getScale(column));
            case Types.REAL -> Optional.of(new SqlType(SqlType.Kind.REAL, 0, 0));
            case Types.FLOAT, Types.DOUBLE -> Optional.of(SqlType.DOUBLE);
            case Types.DATE -> Optional.of(SqlType.DATE);
            case Types.TIMESTAMP, Types.TIMESTAMP_WITH_TIMEZONE -> Optional.of(SqlType.TIMESTAMP);
            case Types.TIME -> Optional.of(SqlType.TIME);
            default -> Optional.of(SqlType.VARCHAR);
        };
    }

    private static Optional<SqlType> decimal(int digits, int scale) {
        boolean known = digits > 0 && digits <= MOST_DIGITS && scale >= 0 && scale <= digits;
        return known ? Optional.of(SqlType.decimal(digits, scale)) : Optional.empty();
    }
}
