package dev.zeitkammer.engine;

import dev.zeitkammer.engine.Stager.Attempted;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.function.Supplier;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** What all warehouses do in the same way over a JDBC connection. */
public abstract class JdbcWarehouse extends JdbcSession implements Warehouse {

    /** A statement that may change a table of the star; scratch tables are none, and a table's branches are no part of its definition. */
    private static final Pattern DEFINES = Pattern.compile(
            "(?i)\\s*(alter(?! table \\S+ drop branch )|create (or replace )?(table|view|schema)|drop (table|view)(?! if exists (temp|pg_temp)\\.))");

    private final Map<String, List<Column>> known = new HashMap<>();
    private final Account account = new Account();

    private final Set<String> kept = new HashSet<>();
    private final Set<String> names = new HashSet<>();
    private final Map<String, String> standIns = new HashMap<>();
    private boolean inTransaction;
    private @Nullable String hashes;

    protected JdbcWarehouse(Connection connection) {
        super(connection);
    }

    /** What the engine says of tables and views. */
    protected abstract Catalog catalog();

    @Override
    public String hashes() {
        if (hashes == null) {
            hashes = version();
        }
        return hashes;
    }

    /** A statement may have changed what the catalog says. */
    protected void forgetCatalog() {
        // most remember nothing of it
    }

    /** A statement has changed what the catalog says; an engine whose transactions do not hold such changes notes it. */
    protected void defined(String sql) {
        // most take it back by themselves
    }

    private void forget() {
        known.clear();
        forgetCatalog();
    }

    /** A catalog is asked once for a table, until a statement may have changed what it says. */
    @Override
    public final List<Column> columns(String table) {
        return known.computeIfAbsent(
                table,
                name -> standIns.containsKey(name)
                        ? othersColumns(name)
                        : catalog().columns(name));
    }

    private List<Column> othersColumns(String table) {
        try {
            return describe("select * from " + table(table) + " as others");
        } catch (WarehouseException refused) {
            throw new WarehouseException(
                    "Cannot read " + table + ", which others load: "
                            + String.valueOf(refused.getMessage())
                                    .lines()
                                    .findFirst()
                                    .orElse(""),
                    refused);
        }
    }

    @Override
    public final void standIn(String table, String query) {
        standIns.put(table, "(\n" + query + "\n)");
        known.remove(table);
    }

    @Override
    public final String table(String name) {
        return standIns.containsKey(name) ? standIns.get(name) : ownTable(name);
    }

    /** A table of the star, with its schema, quoted. */
    protected abstract String ownTable(String name);

    @Override
    public final List<Column> viewColumns(String view) {
        return catalog().viewColumns(view);
    }

    @Override
    public final Map<String, String> comments(String table) {
        return catalog().comments(table);
    }

    @Override
    public final List<String> required(String table) {
        return catalog().required(table);
    }

    @Override
    public final List<Held> constraints(String table) {
        return catalog().constraints(table);
    }

    @Override
    public final Set<String> indexes(String table) {
        return catalog().indexes(table);
    }

    @Override
    public final Set<String> books() {
        return catalog().books();
    }

    @Override
    public void createBooks(Map<String, List<Column>> books) {
        books.forEach((name, columns) -> execute(dialect().createTableIfMissing(book(name), columns)));
    }

    @Override
    public final Optional<String> comment(String schemaOfRelation, String relation) {
        return catalog().comment(schemaOfRelation, relation);
    }

    @Override
    public final void execute(String sql) {
        boolean defines = DEFINES.matcher(sql).lookingAt();
        if (defines) {
            forget();
        }
        run(sql, false);
        if (defines) {
            defined(sql);
        }
    }

    /** Another connection to the same warehouse, of which the same watcher is told. */
    @Override
    public final Warehouse another() {
        JdbcWarehouse worker = connectedAgain();
        worker.isWatchedAs(this);
        return worker;
    }

    /** Another connection to the same warehouse. */
    protected abstract JdbcWarehouse connectedAgain();

    @Override
    public OptionalLong keep(String scratch, String query) {
        becomesTable(scratch);
        kept.add(scratch);
        OptionalLong rows = run(dialect().keep(scratch, query), true);
        account.set(scratch, rows);
        return rows;
    }

    /** A scratch table is about to be made; what only has its name goes. */
    protected final void becomesTable(String scratch) {
        if (names.remove(scratch)) {
            later(dialect().dropName(scratch));
        }
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
            later(dialect().drop(scratch));
        }
        names.add(scratch);
        later(statement);
    }

    @Override
    public void publish(List<TableChange> changes, List<BookChange> books) {
        changes.forEach(change -> execute(change.sql(dialect())));
        books.forEach(change -> execute(change.sql()));
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
        later(dialect().drop(scratch));
    }

    @Override
    public final void dropName(String scratch) {
        names.remove(scratch);
        later(dialect().dropName(scratch));
    }

    @Override
    public final void dropNames() {
        List.copyOf(names).forEach(this::dropName);
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
        forgetLater();
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
        later("begin transaction");
    }

    /** Makes everything stand that was written since the transaction began. */
    protected void commitTransaction() {
        execute("commit");
    }

    /** Takes back what was written since the transaction began. It throws nothing: the error that led here is the one to report. */
    protected void takeTransactionBack() {
        try (Statement statement = connection().createStatement()) {
            statement.execute("rollback");
        } catch (SQLException alreadyOver) {
            // a failed commit or a lost connection has ended the transaction by itself
        }
    }
}
