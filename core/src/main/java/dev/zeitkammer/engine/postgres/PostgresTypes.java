package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.SqlType;

/** The types of columns as the server's catalog writes them. */
final class PostgresTypes {

    /** The scale of numbers whose precision the server does not tell: results of computations. */
    static final SqlType COMPUTED = SqlType.decimal(38, 10);

    private PostgresTypes() {}

    static SqlType of(String written) {
        return switch (written) {
            case "numeric" -> COMPUTED;
            case "timestamp with time zone" -> SqlType.TIMESTAMP;
            case "time with time zone" -> SqlType.TIME;
            default ->
                SqlType.parse(written.replaceFirst("^(timestamp|time)\\(\\d\\)", "$1"))
                        .orElse(SqlType.VARCHAR);
        };
    }

    /** The type of a result's column, of which the driver tells name, digits and scale; columns that the server counts have names of their own. */
    static SqlType of(String name, int digits, int scale) {
        return switch (name) {
            case "smallserial" -> SqlType.SMALLINT;
            case "serial" -> SqlType.INTEGER;
            case "bigserial" -> SqlType.BIGINT;
            case "numeric" -> digits == 0 ? COMPUTED : SqlType.decimal(Math.min(38, digits), scale);
            case "bpchar", "varchar" ->
                digits > 0 && digits < Integer.MAX_VALUE
                        ? new SqlType(SqlType.Kind.VARCHAR, digits, 0)
                        : SqlType.VARCHAR;
            case "timestamptz" -> SqlType.TIMESTAMP;
            case "timetz" -> SqlType.TIME;
            default -> SqlType.parse(name).orElse(SqlType.VARCHAR);
        };
    }
}
