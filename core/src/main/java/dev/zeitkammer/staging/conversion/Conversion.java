package dev.zeitkammer.staging.conversion;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.CsvForm.Zone;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * SQL of the embedded engine that converts a text to a type, strictly: a value that the type cannot hold unchanged gives null.
 * Texts in the canonical form of their type take a short way; the others are looked at by a regular expression.
 */
public final class Conversion {

    private static final String WHOLE = "^ *([+-]?[0-9]+)(?:\\.0*)? *$";
    private static final String APPROXIMATE = "^ *([+-]?(?:[0-9]+\\.?[0-9]*|\\.[0-9]+)(?:[eE][+-]?[0-9]+)?) *$";
    private static final String DAY = "^ *([0-9]{4}-[0-9]{2}-[0-9]{2}) *$";
    private static final String MOMENT =
            "^ *([0-9]{4}-[0-9]{2}-[0-9]{2}(?:[ T][0-9]{2}:[0-9]{2}(?::[0-9]{2}(?:\\.[0-9]{1,6}0*)?)?)?)Z? *$";
    private static final String OFFSET =
            "^ *([0-9]{4}-[0-9]{2}-[0-9]{2}[ T][0-9]{2}:[0-9]{2}(?::[0-9]{2}(?:\\.[0-9]{1,6})?)?)0*(?:Z|([+-])(0[0-9]|1[0-8]):?([0-5][0-9])?) *$";
    private static final String CLOCK = "^ *([0-9]{2}:[0-9]{2}(?::[0-9]{2}(?:\\.[0-9]{1,6}0*)?)?) *$";
    private static final int DAY_LENGTH = 10;
    private static final int MOMENT_LENGTH = 26;

    private static final Pattern LETTERS = Pattern.compile("yyyy|yy|MM|M|dd|d|HH|H|mm|ss|SSSSSS|SSS");
    private static final Map<String, String> DIRECTIVES = Map.ofEntries(
            Map.entry("yyyy", "%Y"),
            Map.entry("yy", "%y"),
            Map.entry("MM", "%m"),
            Map.entry("M", "%-m"),
            Map.entry("dd", "%d"),
            Map.entry("d", "%-d"),
            Map.entry("HH", "%H"),
            Map.entry("H", "%-H"),
            Map.entry("mm", "%M"),
            Map.entry("ss", "%S"),
            Map.entry("SSS", "%g"),
            Map.entry("SSSSSS", "%f"));

    private final Dialect dialect;
    private final CsvForm csv;

    /** Conversion of texts that are written in a form. */
    public Conversion(Dialect dialect, CsvForm csv) {
        this.dialect = dialect;
        this.csv = csv;
    }

    /** A lenient cast of the text, which {@link #of(String, String, SqlType)} looks over; empty where a type needs none. */
    public Optional<String> lenient(String text, SqlType type) {
        boolean isFormatted = switch (type.kind()) {
            case VARCHAR, BOOLEAN -> true;
            case DATE -> !csv.dateFormats().isEmpty();
            case TIMESTAMP -> !csv.timestampFormats().isEmpty();
            case TIME -> !csv.timeFormats().isEmpty();
            default -> false;
        };
        return isFormatted
                ? Optional.empty()
                : Optional.of(dialect.tryCast(isNumber(type) ? number(text) : text, type));
    }

    private static boolean isNumber(SqlType type) {
        return switch (type.kind()) {
            case SMALLINT, INTEGER, BIGINT, DECIMAL, REAL, DOUBLE -> true;
            default -> false;
        };
    }

    /** The text, quoted column {@code text}, as a value of the type, or null. */
    public String of(String text, SqlType type) {
        return of(text, lenient(text, type).orElse("null"), type);
    }

    /** The same where {@code plain} holds the lenient cast already, so that it is made once a value. */
    public String of(String text, String plain, SqlType type) {
        return switch (type.kind()) {
            case VARCHAR ->
                type.length() == 0
                        ? text
                        : "case when length(%s) <= %d then %s end".formatted(text, type.length(), text);
            case SMALLINT, INTEGER, BIGINT -> canonicalOr(number(text), plain, type, WHOLE, "");
            case DECIMAL -> canonicalOr(number(text), plain, type, exact(type.scale()), "");
            case REAL, DOUBLE -> {
                String number = number(text);
                String value = canonicalOr(
                        number, plain, type, APPROXIMATE, "length(" + number + ") < 25 and " + number + " < 'A'");
                String vanishes = value + " = 0 and regexp_matches(" + number + ", '^[^eE]*[1-9]')";
                yield "case when isfinite(" + value + ") and not (" + vanishes + ") then " + value + " end";
            }
            case DATE ->
                formatted(text, type, csv.dateFormats())
                        .orElseGet(() -> canonicalOr(text, plain, type, DAY, "length(" + text + ") = " + DAY_LENGTH));
            case TIMESTAMP ->
                zoned(
                        text,
                        formatted(text, type, csv.timestampFormats())
                                .orElseGet(() -> canonicalOr(
                                        text,
                                        plain,
                                        type,
                                        MOMENT,
                                        "length(" + text + ") between 19 and " + MOMENT_LENGTH)));
            case TIME ->
                formatted(text, type, csv.timeFormats()).orElseGet(() -> {
                    String value = canonicalOr(text, plain, type, CLOCK, "");
                    return "case when cast(" + value + " as varchar) not like '24%' then " + value + " end";
                });
            case BOOLEAN -> truth(text);
        };
    }

    /** A number as SQL writes it: with a point, and without marks between thousands, which must stand where they belong. */
    public String number(String text) {
        if (csv.decimal().equals(".") && csv.thousands().isEmpty()) {
            return text;
        }
        String decimal = escaped(csv.decimal());
        String whole = csv.thousands()
                .map(mark -> "(?:[0-9]+|[0-9]{1,3}(?:" + escaped(mark) + "[0-9]{3})+)")
                .orElse("[0-9]+");
        String form = "^ *[+-]?" + whole + "(?:" + decimal + "[0-9]*)?(?:[eE][+-]?[0-9]+)? *$";
        String without = csv.thousands()
                .map(mark -> "replace(" + text + ", " + dialect.text(mark) + ", '')")
                .orElse(text);
        return "(case when regexp_matches(%s, %s) then replace(%s, %s, '.') end)"
                .formatted(text, dialect.text(form), without, dialect.text(csv.decimal()));
    }

    private static String escaped(String mark) {
        return mark.equals(".") ? "\\." : mark;
    }

    private static String exact(int scale) {
        return "^ *([+-]?(?:[0-9]+(?:\\.[0-9]{0," + scale + "}0*)?|\\.[0-9]{1," + Math.max(1, scale) + "}0*)) *$";
    }

    /**
     * A timestamp with an offset from UTC ({@code +02:00}, {@code Z}) in the time in which timestamps are stored, and one without, which
     * {@code local} reads. A local time that the zone's clocks leave out is none. Where no zone is said, one with an offset is none.
     */
    private String zoned(String text, String local) {
        if (csv.zone().isEmpty()) {
            return local;
        }
        String utc = Sql.of("""
                case when regexp_matches(${text}, ${form}) then try_cast(regexp_extract(${text}, ${form}, 1) as timestamp)
                  - to_minutes(cast(coalesce(try_cast(nullif(regexp_extract(${text}, ${form}, 2), '') || '1' as integer), 1)
                    * (coalesce(try_cast(nullif(regexp_extract(${text}, ${form}, 3), '') as integer), 0) * 60
                    + coalesce(try_cast(nullif(regexp_extract(${text}, ${form}, 4), '') as integer), 0)) as integer)) end""")
                .with("text", text)
                .with("form", dialect.text(OFFSET))
                .text();
        Zone zone = csv.zone().get();
        String name = dialect.text(zone.name());
        if (!zone.inUtc()) {
            return "coalesce((" + utc + ") at time zone 'UTC' at time zone " + name + ", " + local + ")";
        }
        String moment = "((" + local + ") at time zone " + name + ")";
        String shifted = "case when " + moment + " at time zone " + name + " = " + local + " then " + moment
                + " at time zone 'UTC' end";
        return "coalesce(" + utc + ", " + shifted + ")";
    }

    private String canonicalOr(String text, String plain, SqlType type, String form, String guard) {
        String picked = "nullif(regexp_extract(" + text + ", " + dialect.text(form) + ", 1), '')";
        String isCanonical = (guard.isEmpty() ? "" : guard + " and ") + "cast(" + plain + " as varchar) = " + text;
        return dialect.either(isCanonical, plain, dialect.tryCast(picked, type));
    }

    /** By the first format that the text fits; empty where there is none. */
    private Optional<String> formatted(String text, SqlType type, List<Word> formats) {
        List<String> read =
                formats.stream().map(format -> formatted(text, type, format)).toList();
        return read.size() > 1
                ? Optional.of("coalesce(" + String.join(", ", read) + ")")
                : read.stream().findFirst();
    }

    private String formatted(String text, SqlType type, Word format) {
        String directives = dialect.text(directives(format.text()));
        String parsed = "try_strptime(trim(%s), %s)".formatted(text, directives);
        if (type.equals(SqlType.TIME)) {
            parsed = "try_strptime('2000-01-01 ' || trim(%s), '%%Y-%%m-%%d ' || %s)".formatted(text, directives);
        }
        return "case when strftime(%s, %s) = trim(%s) then %s end"
                .formatted(parsed, directives, text, dialect.cast(parsed, type));
    }

    private static String directives(String format) {
        Matcher letters = LETTERS.matcher(format.replace("%", "%%"));
        return letters.replaceAll(found -> Matcher.quoteReplacement(DIRECTIVES.get(found.group())));
    }

    private static String truth(String text) {
        return "case lower(trim(%s)) when 'true' then true when 't' then true when 'yes' then true when '1' then true"
                        .formatted(text)
                + " when 'false' then false when 'f' then false when 'no' then false when '0' then false end";
    }
}
