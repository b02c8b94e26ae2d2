package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.SqlType;
import java.util.Locale;

/** The types of a cluster, by their names. */
final class SparkTypes {

    private SparkTypes() {}

    /** The type that a name of the catalog means; text for what this program does not know. */
    static SqlType of(String name) {
        String plain = name.toLowerCase(Locale.ROOT);
        return switch (plain) {
            case "float" -> new SqlType(SqlType.Kind.REAL, 0, 0);
            case "tinyint", "byte" -> SqlType.SMALLINT;
            case "timestamp_ntz", "timestamp" -> SqlType.TIMESTAMP;
            case "void" -> SqlType.VARCHAR;
            default -> SqlType.parse(plain).orElse(SqlType.VARCHAR);
        };
    }
}
