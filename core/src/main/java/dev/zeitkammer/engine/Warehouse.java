package dev.zeitkammer.engine;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.OptionalDouble;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * An open connection to a warehouse. One thread uses it at a time. A statement that fails throws
 * {@link WarehouseException} with the engine's own words.
 */
public interface Warehouse extends Stager, Catalog {

    /** How much the caller wants to do. */
    enum Access {
        /** Read what stands in the warehouse, which must exist. */
        READ,
        /** Read, and plan on an empty warehouse where none exists yet; creates nothing. */
        PLAN,
        /** Read, and write what is taken back; on an empty warehouse where none exists yet. */
        REHEARSE,
        /** Read and write; creates the warehouse where none exists yet. */
        WRITE
    }

    /** What this warehouse is called in messages: a file or an address, never a password. */
    String title();

    /**
     * How far the statement is that runs now, asked by another thread: between 0 and 1; empty when nothing is known.
     */
    default OptionalDouble progress() {
        return OptionalDouble.empty();
    }

    /**
     * Makes changes stand: all of a transaction's at its end, or none. Nothing else of a load writes tables of the star.
     *
     * @param changes in order
     * @param books what the books note beside them
     */
    void publish(List<TableChange> changes, List<BookChange> books);

    /** The statement that makes a change of the books here, for readers. */
    default String told(BookChange change) {
        return change.sql();
    }

    /** How many statements this connection was given so far, for measuring. */
    long statements();

    /** From now on each statement that was carried out over this connection is told. */
    void watch(Consumer<Executed> watcher);

    /**
     * Compares what the statements since the last comparison said they wrote into scratch tables with what stands there, and asks
     * conditions in the same query.
     *
     * @param conditions in SQL, each for itself
     * @return whether each of them is so
     * @throws LostRowsException where other rows stand than were written
     */
    List<Boolean> compareWritten(List<String> conditions);

    /** Runs one statement with bound values. */
    void update(String sql, @Nullable Object... values);

    /** The engine and its version, of which {@link Dialect#rowHash} is always the same. */
    String hashes();

    /** The rows of a query, with the names of their columns. */
    default Result result(String sql) {
        List<Column> columns = describe(sql);
        List<List<@Nullable Object>> rows = query(sql, row -> {
            List<@Nullable Object> values = new ArrayList<>();
            for (int column = 1; column <= row.width(); column++) {
                values.add(row.value(column));
            }
            return values;
        });
        return new Result(columns, rows);
    }

    /** Makes the schema of the books, where it is missing. */
    void createBooks();

    /**
     * Makes books that are missing.
     *
     * @param books their columns, by their names
     */
    void createBooks(Map<String, List<Column>> books);

    /** The tables in which the books stand, quoted, with their schema. */
    default List<String> bookTables() {
        return books().stream()
                .sorted()
                .map(book -> book(dialect().quote(book)))
                .toList();
    }

    /**
     * Keeps other writers, but no readers, from tables until the transaction ends, so that what is read of them is still so when it
     * is decided; where an engine can only find that out then, nothing.
     *
     * @param tables as SQL
     * @throws WarehouseException where another session has one of them for too long; it is named
     */
    default void hold(List<String> tables) {
        // most find it out when a commit is decided, or let nobody else in
    }

    /** How long to wait for sessions that have a table. */
    default void waitForOthers(Duration most) {
        // see above
    }

    /** The statements after which a table that others made takes what loads write; none where it does already. */
    default List<String> madeReady(String table) {
        return List.of();
    }

    /** Another connection to the same warehouse, for work side by side. */
    Warehouse another();

    /**
     * Puts the files behind tables in order; no row changes, and no transaction may be open.
     *
     * @param tables quoted, with their schemas
     * @param days for how many days readers may go back to what a table was, where the engine keeps that
     * @return what it did, table by table or for all of them
     */
    List<Upkeep> tidy(List<String> tables, int days);

    /**
     * How much room tables take on disk; nothing is changed.
     *
     * @param tables quoted, with their schemas; an engine that has all of them in one file tells the size of that
     */
    Upkeep.Size size(List<String> tables);

    /** Whether several connections can load tables at once, each in a transaction of its own. */
    default boolean worksSideBySide() {
        return true;
    }

    /** Takes the lock of the warehouse's loads for as long as this connection is open; false when another program has it. */
    boolean lock();

    /** A table of the star, with its schema where the engine needs one, quoted. */
    String table(String name);

    /**
     * Lets a query stand for a table that others load, for as long as the warehouse is open: it is read wherever the table is named,
     * and nothing is written to it.
     *
     * @param table the name of the table in definitions
     */
    void standIn(String table, String query);

    /** A table of the books, with its schema, quoted; or a query of its rows, as a relation, that can be written to all the same. */
    String book(String name);

    /** How comments of tables and views end that the program makes anew when it needs to; it replaces no others. */
    String KEPT = "kept by zeitkammer";

    /** The schema in which the tables stand. */
    String schema();

    /** The schema for the staged rows that inputs retain; environments that share a database have one each. */
    String stagingSchema();

    /** Runs work as one transaction: all of it stands, or none. */
    <T> T inTransaction(Supplier<T> work);

    /** Runs work in a transaction that is taken back at its end. */
    <T> T rehearse(Supplier<T> work);

    /** The embedded engine that reads staged files for this warehouse. */
    Stager stager();

    /** Whether to keep what is made of so many staged bytes is cheaper than to make it twice. */
    default boolean keepsCheaply(long bytes) {
        return true;
    }

    /** Whether the number of a table's rows is known without reading them. */
    default boolean countsCheaply() {
        return false;
    }

    /** Hands the rows of a query in this warehouse over to the stager, which keeps them in a scratch table. */
    void handOver(String query, String scratch);

    /** Brings a scratch table of the stager into reach of this warehouse, under the same name. */
    void receive(String scratch);

    /** Whether a table of the star stands in the warehouse. */
    default boolean has(String table) {
        return !columns(table).isEmpty();
    }

    /**
     * What a query returned.
     *
     * @param columns the names of its columns
     * @param rows the values, in order of the columns
     */
    record Result(List<Column> columns, List<List<@Nullable Object>> rows) {}
}
