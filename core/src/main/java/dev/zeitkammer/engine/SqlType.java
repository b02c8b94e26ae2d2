package dev.zeitkammer.engine;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The type of a column, independent of the warehouse.
 *
 * @param kind the family of the type
 * @param length greatest number of characters of a varchar, or digits of a decimal; 0 when there is no limit
 * @param scale digits after the point of a decimal; 0 for every other kind
 */
public record SqlType(Kind kind, int length, int scale) {

    /** The families of types that staged columns, attributes and measures can have, narrowest number first. */
    public enum Kind {
        BOOLEAN,
        SMALLINT,
        INTEGER,
        BIGINT,
        DECIMAL,
        REAL,
        DOUBLE,
        DATE,
        TIMESTAMP,
        TIME,
        VARCHAR
    }

    public static final SqlType BOOLEAN = new SqlType(Kind.BOOLEAN, 0, 0);
    public static final SqlType SMALLINT = new SqlType(Kind.SMALLINT, 0, 0);
    public static final SqlType INTEGER = new SqlType(Kind.INTEGER, 0, 0);
    public static final SqlType BIGINT = new SqlType(Kind.BIGINT, 0, 0);
    public static final SqlType DOUBLE = new SqlType(Kind.DOUBLE, 0, 0);
    public static final SqlType DATE = new SqlType(Kind.DATE, 0, 0);
    public static final SqlType TIMESTAMP = new SqlType(Kind.TIMESTAMP, 0, 0);
    public static final SqlType TIME = new SqlType(Kind.TIME, 0, 0);
    public static final SqlType VARCHAR = new SqlType(Kind.VARCHAR, 0, 0);

    private static final Pattern FORM =
            Pattern.compile("([a-z][a-z0-9_ ]*?)\\s*(?:\\(\\s*(\\d{1,9})\\s*(?:,\\s*(\\d{1,9})\\s*)?\\))?");
    private static final int MOST_DIGITS = 38;
    private static final List<String> NAMES = List.of(
            "boolean",
            "smallint",
            "integer",
            "bigint",
            "decimal",
            "numeric",
            "real",
            "double",
            "date",
            "timestamp",
            "time",
            "varchar",
            "text",
            "char");

    private static final Map<String, Kind> WORDS = words(
            Map.of(
                    Kind.BOOLEAN, "boolean, bool",
                    Kind.SMALLINT, "smallint, int2, tinyint",
                    Kind.INTEGER, "integer, int, int4",
                    Kind.BIGINT, "bigint, int8, long",
                    Kind.DECIMAL, "decimal, numeric",
                    Kind.REAL, "real, float4"),
            Map.of(
                    Kind.DOUBLE, "double, double precision, float, float8",
                    Kind.DATE, "date",
                    Kind.TIMESTAMP, "timestamp, datetime, timestamp without time zone",
                    Kind.TIME, "time, time without time zone",
                    Kind.VARCHAR, "varchar, text, char, character varying, character, string"));

    @SafeVarargs
    private static Map<String, Kind> words(Map<Kind, String>... kinds) {
        Map<String, Kind> words = new TreeMap<>();
        for (Map<Kind, String> some : kinds) {
            some.forEach((kind, names) -> Stream.of(names.split(", ")).forEach(name -> words.put(name, kind)));
        }
        return words;
    }

    /** What {@link #parse} understands, in small letters or in large ones; sizes that a type cannot have match too. */
    public static Pattern form() {
        String names = WORDS.keySet().stream()
                .flatMap(name -> Stream.of(name, name.toUpperCase(Locale.ROOT)))
                .collect(Collectors.joining("|"));
        return Pattern.compile(" *(" + names + ") *(\\( *[0-9]{1,9} *(, *[0-9]{1,9} *)?\\))? *");
    }

    /** The names that {@link #parse} understands, for messages. */
    public static List<String> names() {
        return NAMES;
    }

    public static SqlType decimal(int digits, int scale) {
        return new SqlType(Kind.DECIMAL, digits, scale);
    }

    /** Reads a SQL type name as a developer writes it ({@code decimal(10,2)}); empty when it is not a known type. */
    public static Optional<SqlType> parse(String text) {
        Matcher form = FORM.matcher(text.strip().toLowerCase(Locale.ROOT));
        if (!form.matches()) {
            return Optional.empty();
        }
        int first = form.group(2) == null ? 0 : Integer.parseInt(form.group(2));
        int second = form.group(3) == null ? 0 : Integer.parseInt(form.group(3));
        Optional<Kind> kind = kindNamed(form.group(1));
        return kind.flatMap(found -> sized(found, first, second, form.group(2) != null, form.group(3) != null));
    }

    private static Optional<Kind> kindNamed(String name) {
        return Optional.ofNullable(WORDS.get(name));
    }

    private static Optional<SqlType> sized(Kind kind, int first, int second, boolean hasFirst, boolean hasSecond) {
        return switch (kind) {
            case DECIMAL -> {
                if (!hasFirst) {
                    yield Optional.of(decimal(18, 3));
                }
                boolean valid = first >= 1 && first <= MOST_DIGITS && second <= first;
                yield valid ? Optional.of(decimal(first, second)) : Optional.empty();
            }
            case VARCHAR -> {
                boolean valid = !hasSecond && (!hasFirst || first > 0);
                yield valid ? Optional.of(new SqlType(kind, first, 0)) : Optional.empty();
            }
            case BOOLEAN, SMALLINT, INTEGER, BIGINT, REAL, DOUBLE, DATE, TIMESTAMP, TIME ->
                hasFirst ? Optional.empty() : Optional.of(new SqlType(kind, 0, 0));
        };
    }

    public boolean isText() {
        return kind == Kind.VARCHAR;
    }

    /** Whether both are whole numbers, or both texts, so that one can stand in place of the other. */
    public boolean isLike(SqlType other) {
        return (isWhole() && other.isWhole()) || (isText() && other.isText());
    }

    /** The greatest of its whole numbers; empty for what has none, or all that a long has. */
    public OptionalLong greatest() {
        return switch (kind) {
            case SMALLINT -> OptionalLong.of(Short.MAX_VALUE);
            case INTEGER -> OptionalLong.of(Integer.MAX_VALUE);
            default -> OptionalLong.empty();
        };
    }

    /** Whether values of the other type can be values of this one: whole and exact numbers, texts. */
    public boolean canHold(SqlType other) {
        return isLike(other) || (kind == Kind.DECIMAL && other.isExactNumber());
    }

    public boolean isMoment() {
        return kind == Kind.DATE || kind == Kind.TIMESTAMP;
    }

    /** Whether it is a whole number. */
    public boolean isWhole() {
        return kind == Kind.SMALLINT || kind == Kind.INTEGER || kind == Kind.BIGINT;
    }

    /** Whether every value of this type is also, unchanged, a value of {@code wider}. */
    public boolean fitsIn(SqlType wider) {
        if (equals(wider)) {
            return true;
        }
        return switch (wider.kind) {
            case VARCHAR -> isText() && (wider.length == 0 || (length > 0 && length <= wider.length));
            case INTEGER, BIGINT -> isWhole() && kind.ordinal() <= wider.kind.ordinal();
            case DECIMAL -> wholeDigits() <= wider.length - wider.scale && scale <= wider.scale && isExactNumber();
            case DOUBLE -> kind == Kind.SMALLINT || kind == Kind.INTEGER || kind == Kind.REAL;
            case TIMESTAMP -> kind == Kind.DATE;
            case BOOLEAN, SMALLINT, REAL, DATE, TIME -> false;
        };
    }

    /** Whether it is a number that holds every digit: whole or decimal. */
    public boolean isExactNumber() {
        return isWhole() || kind == Kind.DECIMAL;
    }

    private int wholeDigits() {
        return switch (kind) {
            case SMALLINT -> 5;
            case INTEGER -> 10;
            case BIGINT -> 19;
            case DECIMAL -> length - scale;
            case BOOLEAN, REAL, DOUBLE, DATE, TIMESTAMP, TIME, VARCHAR -> Integer.MAX_VALUE;
        };
    }

    /** The type as SQL writes it, in lower case. */
    @Override
    public String toString() {
        String name = kind.name().toLowerCase(Locale.ROOT);
        if (kind == Kind.DECIMAL) {
            return name + "(" + length + "," + scale + ")";
        }
        return length > 0 ? name + "(" + length + ")" : name;
    }
}
