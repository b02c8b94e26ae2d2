package dev.zeitkammer.engine;

import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * An engine's connection that rows are staged in: it reads files, and has scratch relations of its own. The embedded engine does
 * this for every warehouse. One thread uses it at a time. A statement that fails throws {@link WarehouseException} with the
 * engine's own words.
 */
public interface Stager extends AutoCloseable {

    Dialect dialect();

    /** Runs one statement. */
    void execute(String sql);

    /** Whether a transaction has begun, in which no statement can follow one that failed. */
    boolean isInTransaction();

    /**
     * Keeps the rows of a query in a scratch table of this connection, replacing an older one.
     *
     * @return how many rows the engine said it wrote; empty where it said nothing
     */
    OptionalLong keep(String scratch, String query);

    /**
     * The same inside a transaction; where the query fails, with another one.
     *
     * @throws WarehouseException the first failure, where the other one fails too
     */
    OptionalLong keep(String scratch, String query, Attempted otherwise);

    /**
     * A query for when another one fails.
     *
     * @param before statements that are executed before it
     */
    record Attempted(List<String> before, String query) {

        public Attempted {
            before = List.copyOf(before);
        }
    }

    /** Adds the rows of a query to a scratch table; a list of columns in parentheses may stand before the query. */
    OptionalLong append(String scratch, String query);

    /** Prepares a scratch table for questions after single rows, in engines that would else read all of it for each. */
    default void index(String scratch, String column) {
        // engines that join whole columns need no index
    }

    /** Gives a query a name in this connection, replacing an older one; it is computed wherever the name stands. */
    void name(String scratch, String query);

    /** Drops the scratch tables that hold more than so many rows, to give memory back. */
    void dropLargeScratch(long rows);

    /** Drops a scratch table, if it is there. */
    void dropScratch(String scratch);

    /** Drops the name of a query, if it is there. */
    void dropName(String scratch);

    /** Removes all scratch relations that have only a name, so that no table is held by them. */
    void dropNames();

    /** Runs a query with bound values and reads every row. */
    <T> List<T> query(String sql, RowReader<T> reader, @Nullable Object... values);

    /** The columns a query would have; the query is not run. */
    List<Column> describe(String query);

    /**
     * From now on, statements that read files in the embedded engine reach none but those below some folders.
     *
     * @param folders absolute
     */
    void confine(Set<Path> folders);

    /**
     * Carries rows that were made outside the warehouse into a scratch table, in bulk, replacing an older one.
     *
     * @param rows values in order of the columns: Integer, Long, BigDecimal, Float, Double, Boolean, a date or time of java.time, or text
     */
    void carry(String scratch, List<Column> columns, Iterable<List<@Nullable Object>> rows);

    /**
     * Lets the engine set itself up for the statements to come.
     *
     * @param bytes about how much is staged, beside what the warehouse holds; {@link Long#MAX_VALUE} where that is not known
     */
    default void expect(long bytes) {
        // most engines decide for each statement
    }

    @Override
    void close();

    /** The first value of a query's first row, as a number. */
    default long number(String sql, @Nullable Object... values) {
        return query(sql, row -> row.number(1), values).stream().findFirst().orElse(0L);
    }

    /** The values of expressions that are numbers, asked in one query. */
    default List<Long> numbers(List<String> expressions) {
        if (expressions.isEmpty()) {
            return List.of();
        }
        Long[] found = new Long[expressions.size()];
        query(SqlText.numbers(expressions), row -> found[(int) row.number(1)] = row.number(2));
        return List.of(found);
    }

    /** The first text of a query's first row. */
    default Optional<String> firstText(String sql, @Nullable Object... values) {
        return query(sql, row -> Optional.ofNullable(row.text(1)), values).stream()
                .findFirst()
                .flatMap(found -> found);
    }
}
