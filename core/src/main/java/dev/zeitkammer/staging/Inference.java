package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * Decides the types of columns from all values of a delivery. Digits with a leading zero or a plus sign are text (codes and
 * telephone numbers); whole numbers are bigint; numbers with a point are decimals that hold every digit.
 *
 * <p>A sample refutes most types cheaply; what it leaves is proved on every value.
 */
final class Inference {

    private static final int AT_ONCE = 4;
    private static final int USUAL_DIGITS = 18;
    private static final int MOST_DIGITS = 38;
    private static final int SAMPLE = 1000;
    private static final String GLIMPSE = "zk_glimpse";
    private static final Set<Trait> MOMENTS = EnumSet.of(Trait.DATE, Trait.TIMESTAMP);

    /** What may hold for every value of a column. */
    private enum Trait {
        WHOLE,
        POINTED,
        SCIENTIFIC,
        DATE,
        TIMESTAMP,
        TRUTH
    }

    private final Warehouse stager;
    private final Conversion conversion;

    Inference(Warehouse stager, Conversion conversion) {
        this.stager = stager;
        this.conversion = conversion;
    }

    /**
     * The types of text columns of a scratch table; columns without any value are missing from the result.
     *
     * @param moments the columns that must hold dates or timestamps
     */
    Map<String, SqlType> of(String scratch, List<String> columns, Set<String> moments) {
        Map<String, SqlType> types = new LinkedHashMap<>();
        if (columns.isEmpty()) {
            return types;
        }
        String table = stager.dialect().quote(scratch);
        Map<String, Set<Trait>> open = new LinkedHashMap<>();
        columns.forEach(column -> open.put(column, EnumSet.allOf(Trait.class)));
        Map<String, Evidence> sample = gather("(select * from " + table + " limit " + SAMPLE + ")", open);
        open.replaceAll((column, traits) ->
                moments.contains(column) ? MOMENTS : sample.get(column).traits());
        gather(table, open).forEach((column, evidence) -> {
            if (evidence.values() > 0) {
                types.put(column, moments.contains(column) ? evidence.moment() : evidence.type());
            }
        });
        return types;
    }

    /** Those columns of a query that a sample of it proves to be text; nothing is known of the others. */
    List<String> provenTexts(String query, List<String> columns, Set<String> moments) {
        Map<String, Set<Trait>> open = new LinkedHashMap<>();
        columns.stream()
                .filter(column -> !moments.contains(column))
                .forEach(column -> open.put(column, EnumSet.allOf(Trait.class)));
        if (open.isEmpty()) {
            return List.of();
        }
        stager.execute(stager.dialect().keep(GLIMPSE, query + "\nlimit " + SAMPLE));
        List<String> texts = new ArrayList<>();
        gather(GLIMPSE, open).forEach((column, evidence) -> {
            if (evidence.values() > 0 && evidence.traits().isEmpty()) {
                texts.add(column);
            }
        });
        return texts;
    }

    /**
     * What was found of a column.
     *
     * @param values the number of values
     * @param traits what holds for all of them
     * @param timed whether one of them is a timestamp and no date
     * @param digits the most digits before the point, and {@code scale} behind it
     */
    private record Evidence(long values, Set<Trait> traits, boolean timed, int digits, int scale) {

        SqlType moment() {
            return timed ? SqlType.TIMESTAMP : SqlType.DATE;
        }

        SqlType type() {
            if (traits.contains(Trait.WHOLE)) {
                return SqlType.BIGINT;
            }
            if (traits.contains(Trait.POINTED)) {
                return exact(digits, scale);
            }
            if (traits.contains(Trait.SCIENTIFIC)) {
                return SqlType.DOUBLE;
            }
            if (traits.contains(Trait.DATE)) {
                return SqlType.DATE;
            }
            if (traits.contains(Trait.TIMESTAMP)) {
                return SqlType.TIMESTAMP;
            }
            return traits.contains(Trait.TRUTH) ? SqlType.BOOLEAN : SqlType.VARCHAR;
        }
    }

    /** A decimal that holds every digit; text where there is none. */
    private static SqlType exact(int digits, int scale) {
        if (digits + scale <= USUAL_DIGITS) {
            return SqlType.decimal(USUAL_DIGITS, scale);
        }
        return digits + scale <= MOST_DIGITS ? SqlType.decimal(MOST_DIGITS, scale) : SqlType.VARCHAR;
    }

    /** Looks at every value of a relation for what is still open; some columns a pass, since planning grows with their square. */
    private Map<String, Evidence> gather(String relation, Map<String, Set<Trait>> open) {
        Map<String, Evidence> found = new LinkedHashMap<>();
        List<String> columns = List.copyOf(open.keySet());
        for (int from = 0; from < columns.size(); from += AT_ONCE) {
            Map<String, Set<Trait>> some = new LinkedHashMap<>();
            columns.subList(from, Math.min(columns.size(), from + AT_ONCE))
                    .forEach(column -> some.put(column, open.get(column)));
            found.putAll(gathered(relation, some));
        }
        return found;
    }

    private Map<String, Evidence> gathered(String relation, Map<String, Set<Trait>> open) {
        Dialect dialect = stager.dialect();
        List<String> selected = new ArrayList<>();
        open.forEach((column, traits) -> {
            String text = "nullif(" + dialect.quote(column) + ", '')";
            selected.add("count(" + text + ")");
            traits.forEach(trait -> selected.add("coalesce(bool_and(" + test(trait, text) + "), true)"));
            selected.add(timed(text, traits));
            boolean measured = traits.contains(Trait.POINTED);
            selected.add(measured ? longest(conversion.number(text), "^-?([0-9]+)") : "0");
            selected.add(measured ? longest(conversion.number(text), "\\.([0-9]+)") : "0");
        });
        String sql = "select " + String.join(",\n  ", selected) + "\nfrom " + relation;
        Map<String, Evidence> found = new LinkedHashMap<>();
        stager.query(sql, row -> {
            int next = 1;
            for (Map.Entry<String, Set<Trait>> column : open.entrySet()) {
                long values = row.number(next++);
                Set<Trait> holding = EnumSet.noneOf(Trait.class);
                for (Trait trait : column.getValue()) {
                    if (row.flag(next++)) {
                        holding.add(trait);
                    }
                }
                boolean timed = row.flag(next++);
                int digits = (int) row.number(next++);
                int scale = (int) row.number(next++);
                found.put(column.getKey(), new Evidence(values, holding, timed, digits, scale));
            }
            return true;
        });
        return found;
    }

    private String test(Trait trait, String text) {
        return switch (trait) {
            case WHOLE -> {
                String number = conversion.number(text);
                yield "coalesce(cast(try_cast(" + number + " as bigint) as varchar) = " + number + ", " + text
                        + " is null)";
            }
            case POINTED -> isNumber(text, "-?(0|[1-9][0-9]*)(\\.[0-9]+)?");
            case SCIENTIFIC -> isNumber(text, "-?(0|[1-9][0-9]*)(\\.[0-9]+)?([eE][+-]?[0-9]+)?");
            case DATE -> "(" + text + " is null or " + conversion.of(text, SqlType.DATE) + " is not null)";
            case TIMESTAMP -> "(" + text + " is null or " + conversion.of(text, SqlType.TIMESTAMP) + " is not null)";
            case TRUTH -> "coalesce(lower(" + text + ") in ('true', 'false'), true)";
        };
    }

    /** Whether a value is a timestamp and no date; needless where all values are dates. */
    private String timed(String text, Set<Trait> open) {
        return open.contains(Trait.DATE) || open.contains(Trait.TIMESTAMP)
                ? "coalesce(bool_or(" + conversion.of(text, SqlType.DATE) + " is null and "
                        + conversion.of(text, SqlType.TIMESTAMP) + " is not null), false)"
                : "false";
    }

    private String isNumber(String text, String form) {
        return "(" + text + " is null or coalesce(regexp_full_match(" + conversion.number(text) + ", '" + form
                + "'), false))";
    }

    private static String longest(String text, String form) {
        return "coalesce(max(length(regexp_extract(" + text + ", '" + form + "', 1))), 0)";
    }
}
