package dev.zeitkammer.engine;

import dev.zeitkammer.engine.Stager.Attempted;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.function.Consumer;
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
    private final Account account = new Account();

    /** What costs nothing by itself, and is given to the engine with the next statement. */
    private final List<String> pending = new ArrayList<>();

    private final Set<String> kept = new HashSet<>();
    private final Set<String> names = new HashSet<>();
    private volatile @Nullable Statement running;
    private @Nullable Consumer<Executed> watcher;
    private boolean inTransaction;
    private long statements;

    protected JdbcWarehouse(Connection connection) {
        this.connection = connection;
    }

    /** The words of the driver in those of the engine. */
    protected abstract WarehouseException failure(SQLException failed);

    /** The columns of a table of the star, from the catalog; empty when it is not there. */
    protected abstract List<Column> catalogColumns(String table);

    /** A statement may have changed what the catalog says. */
    protected void forgetCatalog() {
        // most remember nothing of it
    }

    /** A statement is about to change what the catalog says; an engine whose transactions do not hold such changes notes what was. */
    protected void defines() {
        // most take it back by themselves
    }

    private void forget() {
        known.clear();
        forgetCatalog();
    }

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
            defines();
            forget();
        }
        run(sql, false);
    }

    /** A statement is about to be executed that may write. */
    protected void executes(String sql) {
        // most leave it to the transaction to know what was written
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
    private OptionalLong run(String sql, boolean isCounted) {
        OptionalLong rows = OptionalLong.empty();
        pending.add(sql);
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
                tell(batch.endsWith(sql) ? sql : batch, rows, begun);
            }
            return rows;
        } catch (SQLException failed) {
            throw failure(failed);
        } finally {
            running = null;
        }
    }

    private void tell(String sql, OptionalLong rows, long begun) {
        if (watcher != null) {
            watcher.accept(new Executed(sql, rows, Duration.ofNanos(System.nanoTime() - begun)));
        }
    }

    /** Another connection to the same warehouse, of which the same watcher is told. */
    @Override
    public final Warehouse another() {
        JdbcWarehouse worker = connectedAgain();
        worker.watcher = watcher;
        return worker;
    }

    /** Another connection to the same warehouse. */
    protected abstract JdbcWarehouse connectedAgain();

    @Override
    public final void watch(Consumer<Executed> by) {
        watcher = by;
    }

    @Override
    public final long statements() {
        return statements;
    }

    @Override
    public OptionalLong keep(String scratch, String query) {
        if (names.remove(scratch)) {
            pending.add(dialect().dropName(scratch));
        }
        kept.add(scratch);
        OptionalLong rows = run(dialect().keep(scratch, query), true);
        account.set(scratch, rows);
        return rows;
    }

    @Override
    public final OptionalLong keep(String scratch, String query, Attempted otherwise) {
        run("savepoint zk_before", false);
        OptionalLong rows;
        try {
            rows = keep(scratch, query);
        } catch (BusyException busy) {
            throw busy;
        } catch (WarehouseException failed) {
            execute("rollback to savepoint zk_before");
            rows = keepInstead(scratch, otherwise, failed);
        }
        execute("release savepoint zk_before");
        return rows;
    }

    private OptionalLong keepInstead(String scratch, Attempted otherwise, WarehouseException failed) {
        try {
            otherwise.before().forEach(this::execute);
            return keep(scratch, otherwise.query());
        } catch (BusyException busy) {
            throw busy;
        } catch (WarehouseException stillFails) {
            failed.addSuppressed(stillFails);
            throw failed;
        }
    }

    @Override
    public OptionalLong append(String scratch, String query) {
        OptionalLong rows = run(Dialect.append(scratch, query), true);
        account.add(scratch, rows);
        return rows;
    }

    @Override
    public final void name(String scratch, String query) {
        named(scratch, dialect().name(scratch, query));
    }

    /** A scratch relation is named by a statement, which is given to the engine with the next one. */
    protected final void named(String scratch, String statement) {
        if (kept.remove(scratch)) {
            account.forget(scratch);
            pending.add(dialect().drop(scratch));
        }
        names.add(scratch);
        pending.add(statement);
    }

    /** Executes what waits for the next statement, before one that cannot take it along. */
    protected final void flush() {
        if (!pending.isEmpty()) {
            run(pending.remove(pending.size() - 1), false);
        }
    }

    @Override
    public void publish(List<TableChange> changes, List<BookChange> books) {
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
        kept.add(scratch);
        account.set(scratch, OptionalLong.of(rows));
    }

    /** A query of the number of rows of a scratch table, in its first column, that reads values and not only the catalog. */
    protected String counting(String scratch) {
        return "select count(*) from " + scratch;
    }

    @Override
    public final List<Boolean> compareWritten(List<String> conditions) {
        List<String> open = account.open();
        if (open.isEmpty() && conditions.isEmpty()) {
            return List.of();
        }
        List<String> numbers = new ArrayList<>();
        open.forEach(scratch ->
                numbers.add("(select zk_rows from (" + counting(dialect().quote(scratch)) + ") as counted(zk_rows))"));
        conditions.forEach(condition -> numbers.add(SqlText.flag(condition)));
        List<Long> found = numbers(numbers);
        Map<String, Long> standing = new HashMap<>();
        for (int index = 0; index < open.size(); index++) {
            standing.put(open.get(index), found.get(index));
        }
        account.compare(standing);
        return found.subList(open.size(), found.size()).stream()
                .map(number -> number != 0)
                .toList();
    }

    @Override
    public final void dropLargeScratch(long rows) {
        account.largerThan(rows).forEach(this::dropScratch);
    }

    @Override
    public final void dropScratch(String scratch) {
        account.forget(scratch);
        kept.remove(scratch);
        pending.add(dialect().drop(scratch));
    }

    @Override
    public final void dropName(String scratch) {
        names.remove(scratch);
        pending.add(dialect().dropName(scratch));
    }

    @Override
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

    @Override
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

    @Override
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

    @Override
    public final boolean isInTransaction() {
        return inTransaction;
    }

    private <T> T transaction(Supplier<T> work, boolean keep) {
        beginTransaction(keep);
        inTransaction = true;
        boolean committed = false;
        Set<String> keptBefore = Set.copyOf(kept);
        Set<String> namesBefore = Set.copyOf(names);
        try {
            begun();
            T result = work.get();
            if (keep) {
                commitTransaction();
                committed = true;
            }
            return result;
        } finally {
            inTransaction = false;
            if (!committed) {
                rollback();
                kept.clear();
                kept.addAll(keptBefore);
                names.clear();
                names.addAll(namesBefore);
            }
        }
    }

    private void rollback() {
        pending.clear();
        forget();
        account.clear();
        takeTransactionBack();
    }

    /**
     * Begins a transaction, at the latest with the next statement.
     *
     * @param lasting whether it may be committed; a rehearsal is taken back
     */
    protected void beginTransaction(boolean lasting) {
        pending.add("begin transaction");
    }

    /** Makes everything stand that was written since the transaction began. */
    protected void commitTransaction() {
        execute("commit");
    }

    /** Takes back what was written since the transaction began. It throws nothing: the error that led here is the one to report. */
    protected void takeTransactionBack() {
        try (Statement statement = connection.createStatement()) {
            statement.execute("rollback");
        } catch (SQLException alreadyOver) {
            // a failed commit or a lost connection has ended the transaction by itself
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
