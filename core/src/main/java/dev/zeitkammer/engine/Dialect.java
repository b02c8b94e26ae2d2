package dev.zeitkammer.engine;

import dev.zeitkammer.engine.TableChange.Matching;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * How a warehouse writes SQL. Everything that is the same in standard SQL is written here once, and in what this is made of; an
 * engine overrides what truly differs. Methods return SQL text and never run anything.
 */
public interface Dialect extends DateDialect, DefinitionDialect {

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

    /** 63 bits of a hash of a text, as a bigint that is never negative; the same on every engine. */
    String hash63(String text);

    /**
     * 64 bits of the engine's own hash over the columns of a row, null being a value; of one version of the engine always the same,
     * and cheap.
     *
     * @param seed another seed gives another hash
     */
    String rowHash(List<String> columns, int seed);

    /** A number that no other row of the query has, in no order that means anything, and without bringing all rows together. */
    default String anyNumber() {
        return "row_number() over ()";
    }

    /** The upper 32 bits of such a hash, as a bigint. */
    String upperHalf(String hash);

    /** The lower 32 bits of such a hash, as a bigint. */
    String lowerHalf(String hash);

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

    /** Whether a value is one of those that a query gives, which knows nothing of the row. */
    default String isAmong(String value, String query) {
        return value + " in (" + query + ")";
    }

    /** A query whose values are computed once a row, however often they are named by what reads it. */
    default String once(String query) {
        return query;
    }

    /** Whether a query can climb by itself, with {@code with recursive}. */
    default boolean hasRecursion() {
        return true;
    }

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
