package dev.zeitkammer.engine;

import java.sql.Connection;
import java.sql.DatabaseMetaData;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/**
 * A JDBC connection that statements are given to, one after the other: those that wait for the next, those whose values are bound, and
 * queries; each is counted, and told to whoever watches.
 */
public abstract class JdbcSession {

    private final Connection connection;

    /** What costs nothing by itself, and is given to the engine with the next statement. */
    private final List<String> pending = new ArrayList<>();

    private volatile @Nullable Statement running;
    private @Nullable Consumer<Executed> watcher;
    private long statements;

    protected JdbcSession(Connection connection) {
        this.connection = connection;
    }

    /** The words of the driver in those of the engine. */
    protected abstract WarehouseException failure(SQLException failed);

    /** The type of a result's column. */
    protected abstract SqlType type(ResultSetMetaData data, int column) throws SQLException;

    /** Whether the driver gives values of java.time when asked for them. */
    protected abstract boolean readsModernTypes();

    protected final Connection connection() {
        return connection;
    }

    /** The product, and what of its version changes how rows are hashed: where an engine says nothing else, its first number. */
    protected String version() {
        try {
            DatabaseMetaData data = connection.getMetaData();
            return data.getDatabaseProductName() + " " + data.getDatabaseMajorVersion();
        } catch (SQLException failed) {
            throw new WarehouseException("Cannot tell the version of the engine: " + failed.getMessage(), failed);
        }
    }

    /** The statement that runs now, for another thread to ask about. */
    protected final Optional<Statement> running() {
        return Optional.ofNullable(running);
    }

    /** A statement is about to be executed that may write. */
    protected void executes(String sql) {
        // most leave it to the transaction to know what was written
    }

    /** A statement as the engine takes it; empty where nothing is to be executed now. */
    protected Optional<String> adapted(String sql) {
        return Optional.of(sql);
    }

    /** Statements as the engine takes them: all at once, or one by one. */
    protected List<String> batches(List<String> statements) {
        return List.of(String.join(";\n", statements));
    }

    /** A statement with its values written into it, where the driver cannot bind them; empty where it can. */
    protected Optional<String> withValues(String sql, @Nullable Object... values) {
        return Optional.empty();
    }

    /** @param isCounted whether the rows that it says it wrote are wanted */
    final OptionalLong run(String sql, boolean isCounted) {
        OptionalLong rows = OptionalLong.empty();
        Optional<String> taken = adapted(sql);
        if (taken.isEmpty()) {
            return rows;
        }
        pending.add(taken.get());
        List<String> batches = batches(List.copyOf(pending));
        pending.clear();
        try (Statement statement = connection.createStatement()) {
            running = statement;
            for (String batch : batches) {
                statements++;
                executes(batch);
                long begun = System.nanoTime();
                statement.execute(batch);
                rows = isCounted || watcher != null ? written(statement) : OptionalLong.empty();
                tell(batch.endsWith(taken.get()) ? taken.get() : batch, rows, begun);
            }
            return rows;
        } catch (SQLException failed) {
            throw failure(failed);
        } finally {
            running = null;
        }
    }

    /** A statement that costs nothing by itself is given to the engine with the next one. */
    protected final void later(String sql) {
        pending.add(sql);
    }

    /** What waits for the next statement is of no use any more. */
    final void forgetLater() {
        pending.clear();
    }

    /** Whoever watches another session is told of this one too. */
    final void isWatchedAs(JdbcSession other) {
        watcher = other.watcher;
    }

    private void tell(String sql, OptionalLong rows, long begun) {
        if (watcher != null) {
            watcher.accept(new Executed(sql, rows, Duration.ofNanos(System.nanoTime() - begun)));
        }
    }

    public final void watch(Consumer<Executed> by) {
        watcher = by;
    }

    public final long statements() {
        return statements;
    }

    /** Executes what waits for the next statement, before one that cannot take it along. */
    protected final void flush() {
        if (!pending.isEmpty()) {
            run(pending.remove(pending.size() - 1), false);
        }
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

    public void update(String sql, @Nullable Object... values) {
        flush();
        statements++;
        long begun = System.nanoTime();
        try (PreparedStatement statement = prepared(sql, values)) {
            tell(sql, OptionalLong.of(statement.executeLargeUpdate()), begun);
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    public final <T> List<T> query(String sql, RowReader<T> reader, @Nullable Object... values) {
        flush();
        statements++;
        Optional<String> written = withValues(sql, values);
        long begun = System.nanoTime();
        try (Statement statement = written.isPresent() ? connection.createStatement() : prepared(sql, values);
                ResultSet rows = result(statement, written)) {
            Row row = new JdbcRow(rows, this::failure, readsModernTypes());
            List<T> result = new ArrayList<>();
            while (rows.next()) {
                result.add(reader.read(row));
            }
            tell(sql, OptionalLong.of(result.size()), begun);
            return result;
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    private ResultSet result(Statement statement, Optional<String> written) throws SQLException {
        running = statement;
        try {
            return statement instanceof PreparedStatement prepared
                    ? prepared.executeQuery()
                    : statement.executeQuery(written.orElseThrow());
        } finally {
            running = null;
        }
    }

    public List<Column> describe(String query) {
        flush();
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
