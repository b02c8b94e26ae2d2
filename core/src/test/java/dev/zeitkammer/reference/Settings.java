package dev.zeitkammer.reference;

/**
 * A way in which the random dimension is defined.
 *
 * @param history whether the last two attributes are of type 2, else of type 1
 * @param effective whether a column orders the statements, else the load date
 * @param late the word for late rows
 */
record Settings(boolean history, boolean effective, boolean inclusive, boolean openEnd, String late) {

    String project() {
        return """
                project: random
                warehouses: {memory: {url: "jdbc:duckdb:"}}
                conventions: {valid-to: %s, open-end: %s}
                """.formatted(inclusive ? "inclusive" : "exclusive", openEnd ? "9999-12-31" : "none");
    }

    String dimension() {
        String changes = history ? "type 2" : "type 1";
        return """
                dimension: thing
                from:
                  files: "day-{date}.csv"
                  columns: {effective: date, number: integer, first: varchar, over: varchar, text: varchar}
                key: [code, part]
                attributes: {first: type 0, over: type 1, text: %s, number: %s}
                """.formatted(changes, changes)
                + (effective ? "history: {effective: effective, late: " + late + "}\n" : "");
    }
}
