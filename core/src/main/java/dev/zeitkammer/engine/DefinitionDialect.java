package dev.zeitkammer.engine;

import java.util.List;
import java.util.stream.Collectors;

/** How a warehouse writes statements that define tables, columns, views, indexes and constraints. */
public interface DefinitionDialect extends Spelling {

    /** The type that the engine's catalog shows for a column that was created with a type. */
    SqlType stored(SqlType type);

    /** Whether a type only stands for values whose digits the engine does not tell, which are better taken as texts. */
    default boolean isLoose(SqlType type) {
        return false;
    }

    /** A statement that creates a table. */
    default String createTable(String table, List<Column> columns) {
        return "create table " + defined(table, columns);
    }

    /** A statement that creates a table with the columns and the rows of a query. */
    default String createTableOf(String table, String query) {
        return "create table " + table + " as\n" + query;
    }

    /**
     * Statements that say how the rows of a new table lie in files; none where the engine has it its own way.
     *
     * @param partition columns, or {@code month(column)} and the like
     * @param sort columns
     */
    default List<String> layOut(String table, List<String> partition, List<String> sort) {
        return List.of();
    }

    /** The same, unless it is there. */
    default String createTableIfMissing(String table, List<Column> columns) {
        return "create table if not exists " + defined(table, columns);
    }

    /** What follows {@code create table}: the name, the columns, and what the engine must be told of a table. */
    default String defined(String table, List<Column> columns) {
        return table + " (\n  "
                + columns.stream()
                        .map(column -> quote(column.name()) + " " + type(column.type()))
                        .collect(Collectors.joining(",\n  "))
                + "\n)";
    }

    /** Statements that put the rows of a query into a table of a schema, replacing it; the schema is made where it is missing. */
    default List<String> retain(String schema, String table, String query) {
        String name = quote(schema) + "." + quote(table);
        return List.of(
                "create schema if not exists " + quote(schema),
                "drop table if exists " + name,
                createTableOf(name, query),
                commentOnTable(name, "The staged rows of the last load; " + Warehouse.KEPT));
    }

    /** A statement that adds a column; rows that are there have null in it. */
    default String addColumn(String table, Column column) {
        return "alter table " + table + " add column " + quote(column.name()) + " " + type(column.type());
    }

    /** A statement that renames a column. */
    default String renameColumn(String table, String from, String to) {
        return "alter table " + table + " rename column " + quote(from) + " to " + quote(to);
    }

    /** A statement that says what a table is, for readers of the catalog. */
    default String commentOnTable(String table, String about) {
        return "comment on table " + table + " is " + text(about);
    }

    /** A statement that says what a column is. */
    default String commentOnColumn(String table, String column, String about) {
        return "comment on column " + table + "." + quote(column) + " is " + text(about);
    }

    /** A statement that creates a view, or puts another query under its name. */
    default String createView(String view, String query) {
        return "create or replace view " + view + " as\n" + query;
    }

    /** A statement that says what a view is, and that the program keeps it. */
    default String commentOnView(String view, String about) {
        return "comment on view " + view + " is " + text(about + "; " + Warehouse.KEPT);
    }

    /** The most bytes that a name may have. */
    default int longestName() {
        return Integer.MAX_VALUE;
    }

    /** The most columns that a table may have. */
    default int mostColumns() {
        return Integer.MAX_VALUE;
    }

    /** Whether a view keeps its table's columns from being changed, so that it must be made anew. */
    default boolean viewsHoldColumns() {
        return false;
    }

    /** A statement that drops a view, if it is there. */
    default String dropView(String view) {
        return "drop view if exists " + view;
    }

    /** Statements that make an index; none where the engine is faster without. */
    default List<String> createIndex(String name, String table, List<String> columns) {
        return List.of();
    }

    /** A statement that changes the type of a column. */
    default String alterColumn(String table, Column column) {
        return "alter table " + table + " alter column " + quote(column.name()) + " type " + type(column.type());
    }

    /** Whether the engine holds keys, and may be asked to from the outside. */
    default boolean keepsConstraints() {
        return false;
    }

    /** A statement that makes the engine hold a constraint of a table. */
    default String addConstraint(String table, String constraint) {
        return "alter table " + table + " add " + constraint;
    }

    /** A statement after which a column is never null. */
    default String setNotNull(String table, String column) {
        return "alter table " + table + " alter column " + quote(column) + " set not null";
    }
}
