package dev.zeitkammer.engine;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** What an engine's catalog says of the tables and views of a warehouse. */
public interface Catalog {

    /** The columns of a table as they stand in the warehouse; empty when there is no such table. */
    List<Column> columns(String table);

    /** The columns of a view of the star, in order; empty when there is no such view. */
    List<Column> viewColumns(String view);

    /** What the catalog says a table and its columns are, by the column's name; the table's own under the empty text. */
    Map<String, String> comments(String table);

    /** The columns of a table that must have a value, and that the database gives none. */
    default List<String> required(String table) {
        return List.of();
    }

    /**
     * What the database holds of a table's columns already.
     *
     * @param kind p: they are the primary key; u: unique; n: never null; f: a foreign key
     */
    record Held(String kind, List<String> columns) {}

    /** The constraints of a table, where the engine keeps them. */
    default List<Held> constraints(String table) {
        return List.of();
    }

    /** The names of the indexes of a table of the star. */
    default Set<String> indexes(String table) {
        return Set.of();
    }

    /** The names of the tables of the books that stand in the warehouse. */
    Set<String> books();

    /** The comment of a table or view of a schema; an empty text where it has none, nothing where there is no such relation. */
    Optional<String> comment(String schema, String relation);
}
