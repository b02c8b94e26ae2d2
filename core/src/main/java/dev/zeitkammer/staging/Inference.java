package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Decides the types of columns from all values of a delivery. Digits with a leading zero or a plus sign are text (codes and
 * telephone numbers); whole numbers are bigint; numbers with a point are decimals that hold every digit.
 */
final class Inference {

    private static final int MOST_DIGITS = 18;
    private static final String WHOLE = "-?(0|[1-9][0-9]{0,17})";
    private static final String POINTED = "-?(0|[1-9][0-9]{0,17})(\\.[0-9]+)?";
    private static final String SCIENTIFIC = "-?(0|[1-9][0-9]*)(\\.[0-9]+)?([eE][+-]?[0-9]+)?";

    private final Warehouse stager;
    private final Conversion conversion;

    Inference(Warehouse stager, Conversion conversion) {
        this.stager = stager;
        this.conversion = conversion;
    }

    /** The types of text columns of a scratch table; columns without any value are missing from the result. */
    Map<String, SqlType> of(String scratch, List<String> columns, Set<String> moments) {
        Map<String, SqlType> types = new LinkedHashMap<>();
        if (columns.isEmpty()) {
            return types;
        }
        Dialect dialect = stager.dialect();
        List<String> evidence = new ArrayList<>();
        for (String column : columns) {
            evidence.addAll(evidence("nullif(" + dialect.quote(column) + ", '')"));
        }
        String sql = "select " + String.join(",\n  ", evidence) + "\nfrom " + dialect.quote(scratch);
        int width = evidence.size() / columns.size();
        stager.query(sql, row -> {
            for (int index = 0; index < columns.size(); index++) {
                String column = columns.get(index);
                Evidence found = new Evidence(row, index * width);
                (moments.contains(column) ? moment(found) : decided(found)).ifPresent(type -> types.put(column, type));
            }
            return true;
        });
        return types;
    }

    private List<String> evidence(String text) {
        return List.of(
                "count(" + text + ")",
                all(matches(text, WHOLE)),
                all(matches(text, POINTED)),
                all(matches(text, SCIENTIFIC)),
                all(conversion.of(text, SqlType.DATE) + " is not null"),
                all(conversion.of(text, SqlType.TIMESTAMP) + " is not null"),
                all("lower(" + text + ") in ('true', 'false')"),
                "coalesce(max(length(regexp_extract(" + text + ", '\\.([0-9]+)', 1))), 0)",
                "coalesce(max(length(regexp_extract(" + text + ", '^-?([0-9]+)', 1))), 0)",
                "coalesce(bool_or(" + conversion.of(text, SqlType.TIMESTAMP) + " is not null and "
                        + conversion.of(text, SqlType.DATE) + " is null), false)");
    }

    private static String matches(String text, String form) {
        return "regexp_full_match(" + text + ", '" + form + "')";
    }

    private static String all(String condition) {
        return "coalesce(bool_and(" + condition + "), false)";
    }

    /** What was found of one column; the fields are in order of {@link #evidence}. */
    private record Evidence(dev.zeitkammer.engine.Row row, int offset) {
        boolean flag(int index) {
            return row.flag(offset + index + 1);
        }

        int number(int index) {
            return (int) row.number(offset + index + 1);
        }
    }

    /** Columns that must hold moments are dates unless a value has a time of day. */
    private static Optional<SqlType> moment(Evidence found) {
        if (found.number(0) == 0) {
            return Optional.empty();
        }
        return Optional.of(found.flag(9) ? SqlType.TIMESTAMP : SqlType.DATE);
    }

    private static Optional<SqlType> decided(Evidence found) {
        if (found.number(0) == 0) {
            return Optional.empty();
        }
        if (found.flag(1)) {
            return Optional.of(SqlType.BIGINT);
        }
        int scale = found.number(7);
        if (found.flag(2) && found.number(8) + scale <= MOST_DIGITS) {
            return Optional.of(SqlType.decimal(MOST_DIGITS, scale));
        }
        if (found.flag(3)) {
            return Optional.of(SqlType.DOUBLE);
        }
        if (found.flag(4)) {
            return Optional.of(SqlType.DATE);
        }
        if (found.flag(5)) {
            return Optional.of(SqlType.TIMESTAMP);
        }
        return Optional.of(found.flag(6) ? SqlType.BOOLEAN : SqlType.VARCHAR);
    }
}
