package dev.zeitkammer.engine;

/** One change of the books that follows from a query, as a value. */
public sealed interface BookChange {

    Caption caption();

    /** The table of the books, as SQL. */
    String book();

    /** The statement that makes the change. */
    String sql();

    /**
     * Adds the rows of a query.
     *
     * @param book the table of the books, quoted
     * @param columns as SQL
     */
    record Insert(Caption caption, String book, String columns, String query) implements BookChange {

        @Override
        public String sql() {
            return "insert into " + book + " (" + columns + ")\n" + query;
        }
    }

    /** Removes the rows that meet a condition. */
    record Remove(Caption caption, String book, String condition) implements BookChange {

        @Override
        public String sql() {
            return "delete from " + book + "\nwhere " + condition;
        }
    }
}
