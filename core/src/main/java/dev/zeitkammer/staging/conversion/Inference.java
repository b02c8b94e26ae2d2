package dev.zeitkammer.staging.conversion;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Decides the types of columns from all values of a delivery. Digits with a leading zero or a plus sign are text (codes and
 * telephone numbers); whole numbers are bigint; numbers with a point are decimals that hold every digit.
 *
 * <p>A sample refutes most types cheaply; what it leaves is proved on every value.
 */
public final class Inference {

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

    private final Stager stager;
    private final Conversion conversion;

    public Inference(Stager stager, Conversion conversion) {
        this.stager = stager;
        this.conversion = conversion;
    }

    /**
     * The types of text columns of a scratch table; columns without any value are missing from the result.
     *
     * @param moments the columns that must hold dates or timestamps
     */
    public Map<String, SqlType> of(String scratch, List<String> columns, Set<String> moments) {
        Map<String, SqlType> types = new LinkedHashMap<>();
        if (columns.isEmpty()) {
            return types;
        }
        String table = stager.dialect().quote(scratch);
        Map<String, Set<Trait>> open = new LinkedHashMap<>();
        columns.forEach(column -> open.put(column, EnumSet.allOf(Trait.class)));
        Map<String, Evidence> sample = gather("(select * from " + table + " limit " + SAMPLE + ") as sample", open);
        open.replaceAll((column, traits) ->
                moments.contains(column) ? MOMENTS : sample.get(column).traits());
        boolean isAll = stager.number("select count(*) from " + table) <= SAMPLE;
        (isAll ? sample : gather(table, open)).forEach((column, evidence) -> {
            if (evidence.values() > 0) {
                types.put(column, moments.contains(column) ? evidence.moment() : evidence.type());
            }
        });
        return types;
    }

    /** Those columns of a query that a sample of it proves to be text; nothing is known of the others. */
    public List<String> provenTexts(String query, List<String> columns, Set<String> moments) {
        Map<String, Set<Trait>> open = new LinkedHashMap<>();
        columns.stream()
                .filter(column -> !moments.contains(column))
                .forEach(column -> open.put(column, EnumSet.allOf(Trait.class)));
        if (open.isEmpty()) {
            return List.of();
        }
        stager.keep(GLIMPSE, query + "\nlimit " + SAMPLE);
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

    /**
     * Looks at every value of a relation for what is still open. Columns become rows of one query, each with the numbers of its
     * open traits: it is planned in the time of one column, however many there are.
     */
    private Map<String, Evidence> gather(String relation, Map<String, Set<Trait>> open) {
        Dialect dialect = stager.dialect();
        List<String> columns = List.copyOf(open.keySet());
        List<String> tests = new ArrayList<>();
        for (Trait trait : Trait.values()) {
            tests.add("coalesce(bool_and(" + when(Set.of(trait), test(trait, "zk_text")) + "), true)");
        }
        tests.add("coalesce(bool_or(" + when(MOMENTS, timed("zk_text")) + "), false)");
        tests.add("coalesce(max(" + when(Set.of(Trait.POINTED), longest("^-?([0-9]+)")) + "), 0)");
        tests.add("coalesce(max(" + when(Set.of(Trait.POINTED), longest("\\.([0-9]+)")) + "), 0)");
        String sql = Sql.of("""
                select zk_place, count(zk_text),
                  ${tests}
                from (
                  select unnest(range(${size})) as zk_place, unnest([${bits}]) as zk_open, nullif(unnest([${column_names}]), '') as zk_text
                  from ${relation}
                ) as texts
                group by zk_place""")
                .with("tests", String.join(",\n", tests))
                .with("size", columns.size())
                .with(
                        "bits",
                        open.values().stream()
                                .map(Inference::bits)
                                .map(String::valueOf)
                                .collect(Collectors.joining(", ")))
                .with("column_names", dialect.columns(columns))
                .with("relation", relation)
                .text();
        Map<String, Evidence> found = new LinkedHashMap<>();
        columns.forEach(column -> found.put(column, new Evidence(0, open.get(column), false, 0, 0)));
        stager.query(sql, row -> {
            String column = columns.get((int) row.number(1));
            return found.put(column, evidence(row, open.get(column)));
        });
        return found;
    }

    private static Evidence evidence(Row row, Set<Trait> open) {
        Set<Trait> holding = EnumSet.noneOf(Trait.class);
        int next = 3;
        for (Trait trait : Trait.values()) {
            if (row.flag(next++) && open.contains(trait)) {
                holding.add(trait);
            }
        }
        return new Evidence(
                row.number(2), holding, row.flag(next), (int) row.number(next + 1), (int) row.number(next + 2));
    }

    private static int bits(Set<Trait> traits) {
        return traits.stream().mapToInt(trait -> 1 << trait.ordinal()).sum();
    }

    /** A test that is made only where one of the traits is still open. */
    private static String when(Set<Trait> traits, String test) {
        return "case when zk_open & " + bits(traits) + " <> 0 then " + test + " end";
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

    /** Whether a value is a timestamp and no date. */
    private String timed(String text) {
        return "(" + conversion.of(text, SqlType.DATE) + " is null and " + conversion.of(text, SqlType.TIMESTAMP)
                + " is not null)";
    }

    private String isNumber(String text, String form) {
        return "(" + text + " is null or coalesce(regexp_full_match(" + conversion.number(text) + ", '" + form
                + "'), false))";
    }

    private String longest(String form) {
        return "length(regexp_extract(" + conversion.number("zk_text") + ", '" + form + "', 1))";
    }
}
