package dev.zeitkammer.engine.spark;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import org.jspecify.annotations.Nullable;

/** Values as SQL. The driver would put them into a statement itself, and trips over backslashes and question marks in them. */
final class Literals {

    private final SparkDialect dialect;

    Literals(SparkDialect dialect) {
        this.dialect = dialect;
    }

    /** A value as SQL. */
    String of(@Nullable Object value) {
        if (value == null) {
            return "null";
        }
        if (value instanceof LocalDate date) {
            return dialect.date(date);
        }
        if (value instanceof LocalDateTime moment) {
            return dialect.timestamp(moment);
        }
        if (value instanceof Double || value instanceof Float) {
            return "cast(" + dialect.text(value.toString()) + " as double)";
        }
        if (value instanceof BigDecimal number) {
            return number.toPlainString();
        }
        return value instanceof Number || value instanceof Boolean ? value.toString() : dialect.text(value.toString());
    }

    /**
     * A statement with a value for each question mark, in order; those inside of texts and quoted names are none.
     *
     * @throws IllegalArgumentException where there are more or fewer
     */
    String into(String sql, @Nullable Object... values) {
        if (values.length == 0) {
            return sql;
        }
        StringBuilder written = new StringBuilder();
        char quote = 0;
        int next = 0;
        for (int index = 0; index < sql.length(); index++) {
            char character = sql.charAt(index);
            if (quote == '\'' && character == '\\') {
                written.append(character).append(sql.charAt(++index));
            } else if (quote == 0 && character == '?') {
                if (next == values.length) {
                    throw new IllegalArgumentException("More places than values: " + sql);
                }
                written.append(of(values[next++]));
            } else {
                if (character == quote) {
                    quote = 0;
                } else if (quote == 0 && (character == '\'' || character == '`')) {
                    quote = character;
                }
                written.append(character);
            }
        }
        if (next < values.length) {
            throw new IllegalArgumentException("More values than places: " + sql);
        }
        return written.toString();
    }
}
