package dev.zeitkammer.engine;

import dev.zeitkammer.engine.TableChange.Matching;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.time.temporal.ChronoField;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * How a warehouse writes SQL. Everything that is the same in standard SQL is written here once; an engine overrides what
 * truly differs. Methods return SQL text and never run anything.
 */
public interface Dialect {

    DateTimeFormatter TIMESTAMP_FORMAT = new DateTimeFormatterBuilder()
            .appendPattern("uuuu-MM-dd HH:mm:ss")
            .appendFraction(ChronoField.NANO_OF_SECOND, 0, 6, true)
            .toFormatter(Locale.ROOT);

    /** An identifier, quoted. */
    default String quote(String identifier) {
        return '"' + identifier.replace("\"", "\"\"") + '"';
    }

    /** A column of a table alias. */
    default String column(String alias, String name) {
        return alias + "." + quote(name);
    }

    /** Columns, quoted and separated by commas. */
    default String columns(Collection<String> names) {
        return list(names, this::quote);
    }

    /** Items rendered and separated by commas. */
    default <T> String list(Collection<T> items, Function<? super T, String> rendering) {
        return items.stream().map(rendering).collect(Collectors.joining(", "));
    }

    /** A text literal. */
    default String text(String value) {
        return "'" + value.replace("'", "''") + "'";
    }

    default String date(LocalDate value) {
        return "date '" + value + "'";
    }

    /** A timestamp literal, to the microsecond. */
    default String timestamp(LocalDateTime value) {
        return "timestamp '" + TIMESTAMP_FORMAT.format(value) + "'";
    }

    /** Whether two values differ, null being a value like every other. */
    default String differs(String left, String right) {
        return left + " is distinct from " + right;
    }

    /** Whether any of these columns differs between two aliases; {@code false} when there are none. */
    default String anyDiffers(Collection<String> names, String left, String right) {
        return names.isEmpty()
                ? "false"
                : names.stream()
                        .map(name -> differs(column(left, name), column(right, name)))
                        .collect(Collectors.joining(" or ", "(", ")"));
    }

    /** Whether all of these columns are equal between two aliases; rows with a null never are. */
    default String allEqual(Collection<String> names, String left, String right) {
        return names.stream()
                .map(name -> column(left, name) + " = " + column(right, name))
                .collect(Collectors.joining(" and "));
    }

    /** The type as this engine writes it. */
    String type(SqlType type);

    /** The type that the engine's catalog shows for a column that was created with a type. */
    SqlType stored(SqlType type);

    /** Whether a type only stands for values whose digits the engine does not tell, which are better taken as texts. */
    default boolean isLoose(SqlType type) {
        return false;
    }

    /** A cast that gives null where the value does not fit. */
    String tryCast(String expression, SqlType type);

    default String cast(String expression, SqlType type) {
        return "cast(" + expression + " as " + type(type) + ")";
    }

    /** A value as a text. */
    default String asText(String expression) {
        return cast(expression, SqlType.VARCHAR);
    }

    /** A text that is null. */
    default String noText() {
        return asText("null");
    }

    /** Whether two values are the same, null being a value like every other. */
    default String same(String left, String right) {
        return left + " is not distinct from " + right;
    }

    /** Whether two values are equal; of keys in which null is a value, also whether both are null. */
    default String equal(String left, String right, boolean nullIsAValue) {
        return nullIsAValue ? same(left, right) : left + " = " + right;
    }

    /** The texts of a group as one, in an order. */
    default String joined(String text, String separator, String order) {
        return "string_agg(" + text + ", " + text(separator) + " order by " + order + ")";
    }

    /** A moment so many units later, such as {@code 2 month}. */
    default String later(String moment, String number, String unit) {
        return moment + " + interval '" + number + "' " + unit;
    }

    /** A moment so many units earlier. */
    default String earlier(String moment, String number, String unit) {
        return moment + " - interval '" + number + "' " + unit;
    }

    /** A timestamp a microsecond before another. */
    default String momentBefore(String timestamp) {
        return "(" + timestamp + " - interval '1 microsecond')";
    }

    /** A moment before all others. */
    default String always(SqlType type) {
        return cast("'-infinity'", type);
    }

    /** A moment after all others. */
    default String forever(SqlType type) {
        return cast("'infinity'", type);
    }

    /** 63 bits of a hash of a text, as a bigint that is never negative; the same on every engine. */
    String hash63(String text);

    /**
     * A query that ends after so many rows, however many it would give; empty where the engine would plan it worse.
     *
     * @param most a query of the number
     */
    default Optional<String> atMost(String query, String most) {
        return Optional.empty();
    }

    /**
     * How an expression is computed so that a row that cannot compute it has a fault, where else the statement would fail.
     *
     * @param before a statement that is executed first
     * @param tried an expression over the same rows, alias {@code s}
     * @param value the value, over the same rows with the column {@code tried}
     * @param fault what is wrong, over the same; null where nothing is
     */
    record Attempt(Optional<String> before, String tried, String value, String fault) {}

    /**
     * Empty where the engine has no way.
     *
     * @param tried the name of the column that holds what was tried
     */
    default Optional<Attempt> attempt(String tried, String expression) {
        return Optional.empty();
    }

    /** Whether attempts are so slow that statements are executed without them, and with them when they failed. */
    default boolean attemptsWhenFailed() {
        return false;
    }

    /** One of two values of columns of one name, chosen by a condition. */
    default String either(String condition, String then, String otherwise) {
        return "case when " + condition + " then " + then + " else " + otherwise + " end";
    }

    /** Whether a scratch table lacks a row of a staged row's number; a number is never null. */
    default String lacks(String scratch, String alias) {
        return "not exists (select 1 from " + scratch + " as x where x.zk_row = " + alias + ".zk_row)";
    }

    /** Whether a query can climb by itself, with {@code with recursive}. */
    default boolean hasRecursion() {
        return true;
    }

    /** The smallest step later: a day for a date, a microsecond for a timestamp. */
    String nextMoment(String moment, SqlType type);

    /** The day before a date. */
    String dayBefore(String date);

    /** By what rows of a table that are never changed are in the order in which they were written. */
    String rowPlace();

    /** A statement that keeps the rows of a query in a scratch table of this connection, replacing an older one. */
    String keep(String scratch, String query);

    /** A statement that gives a query a name in this connection, replacing an older one. */
    String name(String scratch, String query);

    /** A statement that drops what {@link #keep} made, if it is there. */
    String drop(String scratch);

    /** A statement that drops what {@link #name} made, if it is there. */
    String dropName(String scratch);

    /** A query of one column {@code day}: every day from the first to the last. */
    String days(LocalDate first, LocalDate last);

    /** The minute in which a time or a timestamp falls, as a time. */
    default String minuteOf(String moment, SqlType type) {
        String timestamp = type.equals(SqlType.TIME) ? "(" + date(LocalDate.EPOCH) + " + " + moment + ")" : moment;
        return cast("date_trunc('minute', " + timestamp + ")", SqlType.TIME);
    }

    /** A query of one column {@code minute}: every minute of a day, as a time. */
    String minutes();

    /** A year, month, day, ISO week and the like of a date, as an integer; {@code part} is an ISO or SQL field name. */
    default String part(String part, String date) {
        return "cast(extract(" + part + " from " + date + ") as integer)";
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

    /** A statement that adds the rows of a query to a scratch table. */
    static String append(String scratch, String query) {
        return "insert into " + scratch + "\n" + query;
    }

    /** A statement that writes values over columns of the rows of a table that match. */
    default String rewrite(String table, Matching matching, Map<String, String> set) {
        return rewrite(table, matching.relation().name(), matching.on(), set);
    }

    /**
     * A statement that writes values over columns of the rows of a table that a source has a row for, and one only.
     *
     * @param source a relation or a query in parentheses, alias {@code c}
     * @param on when a row of it is of a row of the table, alias {@code t}
     */
    default String rewrite(String table, String source, String on, Map<String, String> set) {
        return """
                update %s as t
                set %s
                from %s as c
                where %s""".formatted(
                table, list(set.entrySet(), each -> quote(each.getKey()) + " = " + each.getValue()), source, on);
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

    /** What an insert says between its columns and its rows, so that a key is taken where the table would make one itself. */
    default String overriding() {
        return "";
    }

    /** A statement that removes the rows of a table, alias {@code t}, that meet a condition. */
    default String delete(String table, String condition) {
        return "delete from " + table + " as t where " + condition;
    }

    /** A statement that writes values over columns of every row of a table. */
    default String fill(String table, Map<String, String> set) {
        return "update " + table + " set "
                + list(set.entrySet(), each -> quote(each.getKey()) + " = " + each.getValue());
    }

    /** A statement that removes the rows of a table that match. */
    default String remove(String table, Matching matching) {
        return "delete from " + table + " as t\nusing " + matching.relation() + " as c\nwhere " + matching.on();
    }
}
