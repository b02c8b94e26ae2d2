package dev.zeitkammer.staging.conversion;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.Optional;

/**
 * SQL of a warehouse that converts values which are written plainly, where a cast can make nothing else of them than {@link Conversion}
 * does. A warehouse's casts fail where a value does not fit, or take it for another one; so a value is cast only behind a condition.
 *
 * <p>What is not plain need not be wrong; it only has to be looked at more closely, elsewhere. In doubt nothing is plain.
 */
public final class PlainCast {

    private static final String YEAR = "[1-9][0-9]{3}";
    private static final String LEAP_YEAR = "[1-9][0-9](?:0[48]|[2468][048]|[13579][26])";
    private static final String DAY = "(?:" + YEAR + "-(?:(?:0[13578]|1[02])-(?:0[1-9]|[12][0-9]|3[01])"
            + "|(?:0[469]|11)-(?:0[1-9]|[12][0-9]|30)|02-(?:0[1-9]|1[0-9]|2[0-8]))|" + LEAP_YEAR + "-02-29)";
    private static final String CLOCK = "(?:[01][0-9]|2[0-3]):[0-5][0-9](?::[0-5][0-9](?:\\.[0-9]{1,6})?)?";
    private static final String MOMENT = DAY + "(?:[ T]" + CLOCK + ")?";
    private static final String APPROXIMATE = "[+-]?[0-9]{1,15}(?:\\.[0-9]{1,15})?";

    private final Dialect dialect;

    public PlainCast(Dialect dialect) {
        this.dialect = dialect;
    }

    /**
     * A conversion of values that are plain.
     *
     * @param isPlain the condition, true of values that are cast safely; null or false of the others, and of null
     * @param cast the cast, to be evaluated only where the condition is true
     */
    public record Plain(String isPlain, String cast) {}

    /** How values of a type become another one; empty where nothing of them is known to be plain. */
    public Optional<Plain> of(String value, SqlType from, SqlType to) {
        boolean isKeptAsText = !to.isText() && dialect.stored(to).isText();
        if (isKeptAsText) {
            return Optional.empty();
        }
        if (to.isText()) {
            return writtenAlike(from) ? Optional.of(text(value, from, to)) : Optional.empty();
        }
        if (from.isText()) {
            return Optional.of(ofText(value, to));
        }
        if (from.equals(SqlType.TIMESTAMP) && to.equals(SqlType.DATE)) {
            String day = dialect.cast(value, SqlType.DATE);
            return Optional.of(new Plain(value + " = " + dialect.cast(day, SqlType.TIMESTAMP), day));
        }
        return from.isExactNumber() ? exact(value, from, to) : Optional.empty();
    }

    /** Whether every engine writes the values of a type as the same texts. */
    private static boolean writtenAlike(SqlType from) {
        return from.isText() || from.isWhole() || from.equals(SqlType.DATE);
    }

    private Plain text(String value, SqlType from, SqlType to) {
        String text = from.isText() ? value : dialect.asText(value);
        return new Plain(
                to.length() == 0 ? value + " is not null" : "length(" + text + ") <= " + to.length(),
                dialect.cast(text, to));
    }

    private Plain ofText(String text, SqlType to) {
        String trimmed = "trim(" + text + ")";
        if (to.equals(SqlType.BOOLEAN)) {
            String word = "lower(" + trimmed + ")";
            return new Plain(
                    word + " in ('true', 't', 'yes', '1', 'false', 'f', 'no', '0')",
                    word + " in ('true', 't', 'yes', '1')");
        }
        return new Plain(dialect.matches(text, "^ *" + form(to) + " *$"), dialect.cast(trimmed, to));
    }

    private static String form(SqlType to) {
        return switch (to.kind()) {
            case SMALLINT -> "[+-]?(?:[0-9]{1,4}|[12][0-9]{4})";
            case INTEGER -> "[+-]?(?:[0-9]{1,9}|1[0-9]{9})";
            case BIGINT -> "[+-]?[0-9]{1,18}";
            case DECIMAL ->
                "[+-]?" + (to.length() > to.scale() ? "[0-9]{1," + (to.length() - to.scale()) + "}" : "0")
                        + (to.scale() > 0 ? "(?:\\.[0-9]{1," + to.scale() + "})?" : "");
            case REAL, DOUBLE -> APPROXIMATE;
            case DATE -> DAY;
            case TIMESTAMP -> MOMENT;
            case TIME -> CLOCK;
            case BOOLEAN, VARCHAR -> throw new IllegalArgumentException(to + " has no form");
        };
    }

    /** Numbers within what the narrower type holds, without a digit behind its last one. */
    private Optional<Plain> exact(String value, SqlType from, SqlType to) {
        Optional<BigDecimal> greatest = greatest(to);
        return greatest.map(most -> {
            int scale = to.kind() == SqlType.Kind.DECIMAL ? to.scale() : 0;
            String cut = from.scale() > scale ? " and " + value + " = round(" + value + ", " + scale + ")" : "";
            return new Plain(
                    value + " between -" + most.toPlainString() + " and " + most.toPlainString() + cut,
                    dialect.cast(value, to));
        });
    }

    private static Optional<BigDecimal> greatest(SqlType to) {
        return switch (to.kind()) {
            case SMALLINT -> Optional.of(BigDecimal.valueOf(Short.MAX_VALUE));
            case INTEGER -> Optional.of(BigDecimal.valueOf(Integer.MAX_VALUE));
            case BIGINT -> Optional.of(BigDecimal.valueOf(Long.MAX_VALUE));
            case DECIMAL ->
                Optional.of(new BigDecimal(BigInteger.TEN.pow(to.length()).subtract(BigInteger.ONE), to.scale()));
            default -> Optional.empty();
        };
    }
}
