package dev.zeitkammer.definition;

import java.math.BigDecimal;
import java.util.List;
import java.util.Optional;

/**
 * A condition of the user's own that a load must meet.
 *
 * @param name how outputs call it
 * @param kind what is asserted
 * @param sql a condition over rows, or what is added up; empty for other kinds
 * @param columns the columns that tell rows apart, or the one whose values are listed
 * @param values the values that a column may have, as texts
 * @param control what a total must equal; empty for other kinds
 * @param bounds the numbers between which something must lie
 * @param otherwise what follows where it is not so
 */
public record Assertion(
        Word name,
        Kind kind,
        Optional<Word> sql,
        List<Word> columns,
        List<String> values,
        Optional<Control> control,
        Bounds bounds,
        Otherwise otherwise) {

    /** What is asserted. */
    public enum Kind {
        /** A condition holds for every row; one that is not known is no failure, as in a check constraint of SQL. */
        ROWS,
        /** Columns tell all rows apart. */
        UNIQUE,
        /** A column has listed values only; no value is no failure. */
        VALUES,
        /** A sum equals another one. */
        TOTAL,
        /** So many rows are staged. */
        STAGED,
        /** So many rows are staged, in per cent of those of the last load. */
        AGAINST_LAST
    }

    /** What follows where it is not so. */
    public enum Otherwise {
        /** The rows are set aside. */
        SET_ASIDE,
        /** The load of the table stops, and nothing is changed. */
        STOP,
        /** It is said, and noted in the books. */
        NOTE
    }

    /**
     * What a total must equal.
     *
     * @param input the input that says it
     * @param take SQL over its staged columns; it must have one row
     * @param within how far the two may lie apart
     */
    public record Control(Input input, Word take, BigDecimal within) {}

    /** Bounds, both included; an empty one is none. */
    public record Bounds(Optional<BigDecimal> least, Optional<BigDecimal> greatest) {

        public static final Bounds NONE = new Bounds(Optional.empty(), Optional.empty());

        public boolean hold(BigDecimal number) {
            return least.map(bound -> number.compareTo(bound) >= 0).orElse(true)
                    && greatest.map(bound -> number.compareTo(bound) <= 0).orElse(true);
        }
    }

    public Assertion {
        columns = List.copyOf(columns);
        values = List.copyOf(values);
    }

    /** Whether single rows fail it, which then can be set aside. */
    public boolean isOfRows() {
        return kind == Kind.ROWS || kind == Kind.VALUES;
    }

    /** Whether the number of staged rows decides it. */
    public boolean isOfNumbers() {
        return kind == Kind.STAGED || kind == Kind.AGAINST_LAST;
    }

    /** What is asserted, in words. */
    public String claim() {
        return switch (kind) {
            case ROWS -> sql.orElseThrow().text();
            case UNIQUE -> String.join(", ", columns.stream().map(Word::text).toList()) + " unique";
            case VALUES -> columns.get(0) + " in " + String.join(", ", values);
            case TOTAL ->
                sql.orElseThrow() + " = "
                        + control.map(each -> each.input().name() + ": " + each.take())
                                .orElse("");
            case STAGED -> "staged rows " + range("");
            case AGAINST_LAST -> "staged rows " + range("%") + " of the last load's";
        };
    }

    private String range(String unit) {
        return bounds.least().map(bound -> bound.toPlainString() + unit).orElse("") + ".."
                + bounds.greatest().map(bound -> bound.toPlainString() + unit).orElse("");
    }
}
