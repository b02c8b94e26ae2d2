package dev.zeitkammer.engine.duckdb;

import dev.zeitkammer.engine.SqlType;
import java.util.Locale;

/** The types of the embedded engine. */
final class DuckDbTypes {

    private DuckDbTypes() {}

    /** The type of that name; texts where there is no other for it. */
    static SqlType of(String name) {
        String plain = name.toLowerCase(Locale.ROOT);
        return switch (plain) {
            case "hugeint", "ubigint", "uhugeint" -> SqlType.decimal(38, 0);
            case "float" -> new SqlType(SqlType.Kind.REAL, 0, 0);
            case "utinyint" -> SqlType.INTEGER;
            case "usmallint", "uinteger" -> SqlType.BIGINT;
            default -> SqlType.parse(plain).orElse(plain.startsWith("timestamp") ? SqlType.TIMESTAMP : SqlType.VARCHAR);
        };
    }
}
