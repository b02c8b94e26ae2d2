package dev.zeitkammer.verify;

/**
 * Something that must hold for every row of a table.
 *
 * @param claim what holds, in words
 * @param offending a query of the rows for which it does not hold
 * @param of what these rows are: rows of the table, or loads
 */
record Proof(String claim, String offending, String of) {

    Proof(String claim, String offending) {
        this(claim, offending, "row");
    }
}
