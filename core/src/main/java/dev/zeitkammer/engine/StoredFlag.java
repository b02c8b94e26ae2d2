package dev.zeitkammer.engine;

import java.util.regex.Pattern;

/**
 * How yes and no stand in a column: as a boolean, or as two values of somebody's own such as Y and N, or 1 and 0.
 *
 * @param type the type of the column
 * @param yes the value that says yes, as it stands in the column
 * @param no the value that says no
 */
public record StoredFlag(SqlType type, String yes, String no) {

    public static final StoredFlag BOOLEAN = new StoredFlag(SqlType.BOOLEAN, "true", "false");

    private static final Pattern DIGITS = Pattern.compile("-?\\d{1,9}");

    /** Two values of somebody's own: integers where both are numbers, texts otherwise. */
    public static StoredFlag of(String yes, String no) {
        boolean areNumbers = DIGITS.matcher(yes).matches() && DIGITS.matcher(no).matches();
        return new StoredFlag(areNumbers ? SqlType.INTEGER : SqlType.VARCHAR, yes, no);
    }

    /**
     * The condition that a column says yes. Compared with a value it would be taken for a rare one, where a planner knows nothing of
     * the column yet, and members would be looked for one by one.
     */
    public String holds(Dialect dialect, String column) {
        return isBoolean()
                ? column
                : "(case when " + column + " = " + value(dialect, yes) + " then true else false end)";
    }

    /** What stands in the column for a condition. */
    public String stored(Dialect dialect, String condition) {
        if (isBoolean()) {
            return condition;
        }
        return switch (condition) {
            case "true" -> value(dialect, yes);
            case "false" -> value(dialect, no);
            default ->
                "case when " + condition + " then " + value(dialect, yes) + " else " + value(dialect, no) + " end";
        };
    }

    private boolean isBoolean() {
        return type.equals(SqlType.BOOLEAN);
    }

    private String value(Dialect dialect, String value) {
        return type.isText() ? dialect.text(value) : value;
    }
}
