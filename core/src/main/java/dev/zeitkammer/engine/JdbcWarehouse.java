package dev.zeitkammer.engine;

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
import java.util.function.Supplier;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** What all warehouses do in the same way over a JDBC connection. */
public abstract class JdbcWarehouse implements Warehouse {

    /** A statement that may change a table of the star; scratch tables are none. */
    private static final Pattern DEFINES = Pattern.compile(
            "(?i)\\s*(alter|create (or replace )?(table|view|schema)|drop (table|view)(?! if exists (temp|pg_temp)\\.))");

    private final Connection connection;
    private final Map<String, List<Column>> known = new HashMap<>();
    private volatile @Nullable Statement running;

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
        try (Statement statement = connection.createStatement()) {
            running = statement;
            statement.execute(sql);
        } catch (SQLException failed) {
            throw failure(failed);
        } finally {
            running = null;
        }
    }

    @Override
    public final long update(String sql, @Nullable Object... values) {
        try (PreparedStatement statement = prepared(sql, values)) {
            return statement.executeLargeUpdate();
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    @Override
    public final <T> List<T> query(String sql, RowReader<T> reader, @Nullable Object... values) {
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

    private <T> T transaction(Supplier<T> work, boolean keep) {
        execute("begin transaction");
        boolean committed = false;
        try {
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
