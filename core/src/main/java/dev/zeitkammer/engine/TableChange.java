package dev.zeitkammer.engine;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** One change of one table of the star, as a value: what an engine publishes, and all that it writes there. */
public sealed interface TableChange {

    Caption caption();

    /** The table, quoted, with its schema. */
    String table();

    /** The statement that makes the change. */
    String sql(Dialect dialect);

    /**
     * Adds the rows of a query.
     *
     * @param columns what the query gives, in its order
     */
    record Insert(Caption caption, String table, List<String> columns, String query) implements TableChange {

        public Insert {
            columns = List.copyOf(columns);
        }

        @Override
        public String sql(Dialect dialect) {
            return "insert into " + table + " (" + dialect.columns(columns) + ")" + dialect.overriding() + "\n" + query;
        }
    }

    /**
     * Writes values over columns of the rows that match.
     *
     * @param set the columns, each with SQL over the aliases of the matching
     */
    record Rewrite(Caption caption, String table, Matching matching, Map<String, String> set) implements TableChange {

        public Rewrite {
            set = Collections.unmodifiableMap(new LinkedHashMap<>(set));
        }

        @Override
        public String sql(Dialect dialect) {
            return dialect.rewrite(table, matching, set);
        }
    }

    /** Removes the rows that match. */
    record Remove(Caption caption, String table, Matching matching) implements TableChange {

        @Override
        public String sql(Dialect dialect) {
            return dialect.remove(table, matching);
        }
    }

    /** Removes every row. */
    record Clear(Caption caption, String table) implements TableChange {

        @Override
        public String sql(Dialect dialect) {
            return "delete from " + table;
        }
    }

    /**
     * Which rows of a table are meant: those for which a scratch relation has a row, and one only.
     *
     * @param relation its alias is {@code c}
     * @param on when a row of it is of a row of the table, alias {@code t}
     */
    record Matching(Relation relation, String on) {}

    /** Values of columns that have the same names in the relation. */
    static Map<String, String> same(Dialect dialect, List<String> columns) {
        Map<String, String> set = new LinkedHashMap<>();
        columns.forEach(column -> set.put(column, dialect.column("c", column)));
        return set;
    }
}
