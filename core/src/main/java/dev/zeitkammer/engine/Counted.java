package dev.zeitkammer.engine;

/** Numbers of rows in messages. */
public final class Counted {

    private Counted() {}

    /** Such as {@code 1 row} or {@code 3 rows}. */
    public static String rows(long number) {
        return of(number, "row");
    }

    /** Such as {@code 1 column} or {@code 3 columns}. */
    public static String of(long number, String what) {
        return number + " " + what + (number == 1 ? "" : "s");
    }

    /** Such as {@code 1 row has} or {@code 3 rows have}. */
    public static String rowsHave(long number) {
        return rows(number) + (number == 1 ? " has" : " have");
    }
}
