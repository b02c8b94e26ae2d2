package dev.zeitkammer.engine;

import dev.zeitkammer.engine.Warehouse.Attempted;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.Supplier;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** What all warehouses do in the same way over a JDBC connection. */
public abstract class JdbcWarehouse implements Warehouse {

    /** A statement that may change a table of the star; scratch tables are none. */
    private static final Pattern DEFINES = Pattern.compile(
            "(?i)\\s*(alter|create (or replace )?(table|view|schema)|drop (table|view)(?! if exists (temp|pg_temp)\\.))");

    private final Connection connection;
    private final Map<String, List<Column>> known = new HashMap<>();
    private final Account account = new Account();
    private volatile @Nullable Statement running;
    private long statements;

    protected JdbcWarehouse(Connection connection) {
        this.connection = connection;
    }

    /** The words of the driver in those of the engine. */
    protected abstract WarehouseException failure(SQLException failed);

    /** The columns of a table of the star, from the catalog; empty when it is not there. */
    protected abstract List<Column> catalogColumns(String table);

    /** The type of a result's column. */
    protected abstract SqlType type(ResultSetMetaData data, int column) throws SQLException;

    /** Whether the driver gives values of java.time when asked for them. */
    protected abstract boolean readsModernTypes();

    protected final Connection connection() {
        return connection;
    }

    /** The statement that runs now, for another thread to ask about. */
    protected final Optional<Statement> running() {
        return Optional.ofNullable(running);
    }

    /** A catalog is asked once for a table, until a statement may have changed what it says. */
    @Override
    public final List<Column> columns(String table) {
        return known.computeIfAbsent(table, this::catalogColumns);
    }

    @Override
    public final void execute(String sql) {
        if (DEFINES.matcher(sql).lookingAt()) {
            known.clear();
        }
        run(sql, statement -> OptionalLong.empty());
    }

    /** What is read off a statement that has been executed. */
    private interface Reading {
        OptionalLong of(Statement statement) throws SQLException;
    }

    private OptionalLong run(String sql, Reading reading) {
        try (Statement statement = connection.createStatement()) {
            running = statement;
            statements++;
            statement.execute(sql);
            return reading.of(statement);
        } catch (SQLException failed) {
            throw failure(failed);
        } finally {
            running = null;
        }
    }

    @Override
    public final long statements() {
        return statements;
    }

    @Override
    public final void keep(String scratch, String query) {
        account.set(scratch, run(dialect().keep(scratch, query), this::written));
    }

    @Override
    public final void keep(String scratch, String query, Attempted otherwise) {
        run("savepoint zk_before", statement -> OptionalLong.empty());
        try {
            keep(scratch, query);
        } catch (BusyException busy) {
            throw busy;
        } catch (WarehouseException failed) {
            execute("rollback to savepoint zk_before");
            keepInstead(scratch, otherwise, failed);
        }
        execute("release savepoint zk_before");
    }

    private void keepInstead(String scratch, Attempted otherwise, WarehouseException failed) {
        try {
            otherwise.before().forEach(this::execute);
            keep(scratch, otherwise.query());
        } catch (BusyException busy) {
            throw busy;
        } catch (WarehouseException stillFails) {
            failed.addSuppressed(stillFails);
            throw failed;
        }
    }

    @Override
    public final void append(String scratch, String query) {
        account.add(scratch, run(Dialect.append(scratch, query), this::written));
    }

    @Override
    public final void name(String scratch, String query) {
        run(dialect().name(scratch, query), statement -> OptionalLong.empty());
    }

    @Override
    public final void publish(List<TableChange> changes, List<BookChange> books) {
        changes.forEach(change -> execute(change.sql(dialect())));
        books.forEach(change -> execute(change.sql()));
    }

    /** The rows that a statement said it wrote; the greatest number where it was several. */
    protected OptionalLong written(Statement statement) throws SQLException {
        long most = -1;
        long rows = statement.getLargeUpdateCount();
        boolean isResult = false;
        while (rows >= 0 || isResult) {
            most = Math.max(most, rows);
            isResult = statement.getMoreResults();
            rows = statement.getLargeUpdateCount();
        }
        return most < 0 ? OptionalLong.empty() : OptionalLong.of(most);
    }

    /** So many rows were brought into a scratch table from outside. */
    protected final void brought(String scratch, long rows) {
        account.set(scratch, OptionalLong.of(rows));
    }

    /** A query of the number of rows of a scratch table, in its first column, that reads values and not only the catalog. */
    protected String counting(String scratch) {
        return "select count(*) from " + scratch;
    }

    @Override
    public final void compareWritten() {
        List<String> open = account.open();
        if (open.isEmpty()) {
            return;
        }
        String sql = open.stream()
                .map(scratch -> "select " + dialect().text(scratch) + ", (select zk_rows from ("
                        + counting(dialect().quote(scratch)) + ") as counted(zk_rows))")
                .collect(Collectors.joining(" union all "));
        Map<String, Long> standing = new HashMap<>();
        query(sql, row -> standing.put(String.valueOf(row.text(1)), row.number(2)));
        account.compare(standing);
    }

    @Override
    public final void dropLargeScratch(long rows) {
        account.largerThan(rows).forEach(this::dropScratch);
    }

    @Override
    public final void dropScratch(String scratch) {
        account.forget(scratch);
        execute(dialect().drop(scratch));
    }

    @Override
    public final long update(String sql, @Nullable Object... values) {
        statements++;
        try (PreparedStatement statement = prepared(sql, values)) {
            return statement.executeLargeUpdate();
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    @Override
    public final <T> List<T> query(String sql, RowReader<T> reader, @Nullable Object... values) {
        statements++;
        try (PreparedStatement statement = prepared(sql, values);
                ResultSet rows = result(statement)) {
            Row row = new JdbcRow(rows, this::failure, readsModernTypes());
            List<T> result = new ArrayList<>();
            while (rows.next()) {
                result.add(reader.read(row));
            }
            return result;
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    private ResultSet result(PreparedStatement statement) throws SQLException {
        running = statement;
        try {
            return statement.executeQuery();
        } finally {
            running = null;
        }
    }

    @Override
    public final List<Column> describe(String query) {
        statements++;
        try (PreparedStatement statement = connection.prepareStatement(query)) {
            ResultSetMetaData data = statement.getMetaData();
            List<Column> columns = new ArrayList<>();
            for (int column = 1; column <= data.getColumnCount(); column++) {
                columns.add(new Column(data.getColumnName(column), type(data, column)));
            }
            return columns;
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    @Override
    public final <T> T inTransaction(Supplier<T> work) {
        return transaction(work, true);
    }

    @Override
    public final <T> T rehearse(Supplier<T> work) {
        return transaction(work, false);
    }

    /** A transaction has begun: an engine can make sure here that it still may write. */
    protected void begun() {
        // most need nothing
    }

    private <T> T transaction(Supplier<T> work, boolean keep) {
        execute("begin transaction");
        boolean committed = false;
        try {
            begun();
            T result = work.get();
            if (keep) {
                execute("commit");
                committed = true;
            }
            return result;
        } finally {
            if (!committed) {
                rollback();
            }
        }
    }

    private void rollback() {
        known.clear();
        account.clear();
        try (Statement statement = connection.createStatement()) {
            statement.execute("rollback");
        } catch (SQLException alreadyOver) {
            // a failed commit or a lost connection has ended the transaction by itself; the first error is the one to
            // report
        }
    }

    @Override
    public void close() {
        try {
            connection.close();
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    private PreparedStatement prepared(String sql, @Nullable Object... values) throws SQLException {
        PreparedStatement statement = connection.prepareStatement(sql);
        try {
            for (int index = 0; index < values.length; index++) {
                statement.setObject(index + 1, values[index]);
            }
            return statement;
        } catch (SQLException | RuntimeException failed) {
            statement.close();
            throw failed;
        }
    }
}
