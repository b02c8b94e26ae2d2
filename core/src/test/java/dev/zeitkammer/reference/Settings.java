package dev.zeitkammer.reference;

/**
 * A way in which the random dimension is defined.
 *
 * @param history whether the last two attributes are of type 2, else of type 1
 * @param effective whether a column orders the statements, else the load date
 * @param late the word for late rows
 * @param deletions whether rows can delete their member
 * @param hash whether surrogate keys are hashes
 * @param full whether a delivery holds every member, so that a missing one ends
 */
record Settings(
        boolean history,
        boolean effective,
        boolean inclusive,
        boolean openEnd,
        String late,
        boolean deletions,
        boolean full,
        boolean hash) {

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
                  extract: %s
                  columns: {status: varchar, effective: date, number: integer, first: varchar, over: varchar, text: varchar}
                key: [code, part]
                attributes: {first: type 0, over: type 1, text: %s, number: %s}
                """.formatted(full ? "full" : "changes", changes, changes)
                + (effective ? "history: {effective: effective, late: " + late + "}\n" : "")
                + (deletions || full ? ends() : "")
                + (hash ? "surrogate: hash\n" : "");
    }

    private String ends() {
        return "deletions: {limit: 100%" + (deletions ? ", when: \"status = 'D'\"" : "")
                + (full ? ", absent: close" : "") + "}\n";
    }
}
