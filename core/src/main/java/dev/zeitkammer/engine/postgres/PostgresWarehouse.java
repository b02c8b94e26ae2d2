package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Catalog;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.JdbcWarehouse;
import dev.zeitkammer.engine.LostRowsException;
import dev.zeitkammer.engine.PrivateFolder;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.StagerBeside;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Upkeep;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.WarehouseException;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.postgresql.PGConnection;

/** A schema of a PostgreSQL server. Scratch tables are temporary; what comes from outside comes by COPY. */
public final class PostgresWarehouse extends JdbcWarehouse {

    /** How the URLs of this engine begin. */
    public static final String URL = "jdbc:postgresql:";

    /** Rows that are handed over may be as long as those that are read from files; it costs memory to expect them. */
    private static final String LONG_LINES = ", max_line_size = " + (1 << 28) + ", buffer_size = " + (1 << 29);

    private static final String PUBLIC = "public";
    private static final String STAGING = "staging";

    private final DatabaseAddress address;
    private final Path folder;
    private final Access access;
    private final Supplier<? extends Stager> stagers;
    private final StagerBeside stager;
    private final String schema;
    private final String books;
    private final PostgresDialect dialect = new PostgresDialect();
    private final PlannerStatistics statistics = new PlannerStatistics(this, dialect);
    private final CountedColumns counted = new CountedColumns(this);
    private final PostgresCatalog catalog;
    private final LoadLock lock;

    /** How long a session that has a table is waited for where nothing else is said. */
    private static final Duration PATIENCE = Duration.ofSeconds(10);

    private Duration patience = PATIENCE;

    private PostgresWarehouse(
            DatabaseAddress address,
            Path folder,
            Access access,
            Supplier<? extends Stager> stagers,
            Connection connection)
            throws SQLException {
        super(connection);
        this.address = address;
        this.folder = folder;
        this.access = access;
        this.stagers = stagers;
        this.stager = new StagerBeside(stagers);
        this.schema = address.schema() == null ? PUBLIC : address.schema();
        try (Statement statement = connection.createStatement()) {
            statement.execute(
                    "set timezone = 'UTC'; set client_min_messages = error; set jit = off; set work_mem = '128MB';"
                            + " set temp_buffers = '64MB'; set search_path to "
                            + dialect.quote(schema) + ", public;"
                            + " select set_config(name, '0', false) from pg_settings where name = 'idle_session_timeout';"
                            + TryCasts.CREATION);
        }
        this.books = BooksSchema.of(this, schema);
        this.lock = new LoadLock(this, "zeitkammer " + books);
        this.catalog = new PostgresCatalog(this, schema, books);
    }

    /**
     * Connects to the server that the address names.
     *
     * @param stagers makes the embedded engine that reads staged files, when one is needed
     */
    public static PostgresWarehouse open(
            DatabaseAddress address, Path folder, Access access, Supplier<? extends Stager> stagers) {
        Connection connection = Connecting.to(address, folder);
        try {
            PostgresWarehouse warehouse = new PostgresWarehouse(address, folder, access, stagers, connection);
            warehouse.schemaStands();
            return warehouse;
        } catch (SQLException refused) {
            throw PostgresMessages.notOpened(address, refused);
        }
    }

    private void schemaStands() {
        boolean writes = access == Access.WRITE || access == Access.REHEARSE;
        if (writes && number("select count(*) from pg_namespace where nspname = ?", schema) == 0) {
            execute("create schema " + dialect.quote(schema));
        }
    }

    /** A connection that works for this one, as long as this one holds the lock. */
    @Override
    protected JdbcWarehouse connectedAgain() {
        PostgresWarehouse worker = open(address, folder, access, stagers);
        worker.lock.worksFor(lock);
        stager.confinesAlso(worker.stager);
        return worker;
    }

    @Override
    public void waitForOthers(Duration most) {
        patience = most.compareTo(PATIENCE) > 0 ? most : PATIENCE;
    }

    @Override
    public void hold(List<String> tables) {
        if (tables.isEmpty()) {
            return;
        }
        execute("savepoint zk_hold; set local lock_timeout = " + patience.toMillis());
        try {
            execute("lock table " + String.join(", ", tables) + " in share row exclusive mode");
        } catch (WarehouseException held) {
            execute("rollback to savepoint zk_hold");
            throw holders(tables)
                    .map(holder -> new WarehouseException(
                            "Somebody else is writing to " + holder + "; it was waited for " + patience.toSeconds()
                                    + " s. End that transaction and load again, or wait longer with --wait",
                            held))
                    .orElse(held);
        }
        execute("set local lock_timeout to default; release savepoint zk_hold");
    }

    /** The first table that another session writes to, with that session. */
    private Optional<String> holders(List<String> tables) {
        String names = tables.stream()
                .map(table -> "cast(cast(" + dialect.text(table) + " as regclass) as oid)")
                .collect(Collectors.joining(", "));
        return firstText("select l.relation::regclass || ' (process ' || a.pid || ' of ' || coalesce(a.usename, '?')"
                + " || case when a.application_name = '' then '' else ', ' || a.application_name end"
                + " || ', ' || coalesce(a.state, '?') || ')' from pg_locks as l join pg_stat_activity as a on a.pid = l.pid"
                + " where l.relation in (" + names + ") and l.granted and l.pid <> pg_backend_pid()"
                + " and l.mode not in ('AccessShareLock', 'RowShareLock') order by a.pid limit 1");
    }

    @Override
    protected void begun() {
        statistics.forget();
        lock.holds();
    }

    @Override
    public String title() {
        return address.toString();
    }

    @Override
    protected Catalog catalog() {
        return catalog;
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public void publish(List<TableChange> changes, List<BookChange> books) {
        super.publish(changes, books);
        changes.stream()
                .filter(TableChange.Insert.class::isInstance)
                .map(TableChange::table)
                .distinct()
                .forEach(counted::countOn);
        changes.stream().map(TableChange::table).distinct().forEach(statistics::learn);
    }

    @Override
    public String schema() {
        return schema;
    }

    @Override
    public void createBooks() {
        BooksSchema.create(this, books, schema);
    }

    @Override
    protected String ownTable(String name) {
        return dialect.quote(schema) + "." + dialect.quote(name);
    }

    @Override
    public String stagingSchema() {
        return schema.equals(PUBLIC) ? STAGING : STAGING + "_" + schema;
    }

    @Override
    public String book(String name) {
        return dialect.quote(books) + "." + name;
    }

    /** Room of rows that nobody sees any more is given back to the table, and the planner learns what it holds. */
    @Override
    public List<Upkeep> tidy(List<String> tables, int days) {
        flush();
        List<Upkeep> done = new ArrayList<>();
        for (String table : tables) {
            Upkeep.Size before = size(List.of(table));
            execute("vacuum (analyze) " + table);
            done.add(new Upkeep(table.replace("\"", ""), before, size(List.of(table))));
        }
        return done;
    }

    @Override
    public Upkeep.Size size(List<String> tables) {
        String sizes = dialect.list(tables, table -> "(" + dialect.text(table) + ")");
        long bytes = tables.isEmpty()
                ? 0
                : number("select sum(pg_total_relation_size(cast(t.name as regclass))) from (values " + sizes
                        + ") as t(name)");
        return new Upkeep.Size(OptionalLong.empty(), bytes);
    }

    @Override
    public boolean lock() {
        return lock.take();
    }

    @Override
    public void confine(Set<Path> folders) {
        stager.confine(folders);
    }

    @Override
    public Stager stager() {
        return stager.get();
    }

    @Override
    public void carry(String scratch, List<Column> columns, Iterable<List<@Nullable Object>> rows) {
        create(scratch, columns);
        copyIn(scratch, columns, new TextRows(rows.iterator()));
    }

    private void create(String scratch, List<Column> columns) {
        becomesTable(scratch);
        execute(dialect.drop(scratch) + ";\ncreate temporary table " + dialect.quote(scratch) + " ("
                + dialect.list(columns, column -> dialect.quote(column.name()) + " " + dialect.type(column.type()))
                + ")");
    }

    /** @return the rows that the server says it took */
    private long copyIn(String scratch, List<Column> columns, InputStream rows) {
        String copy = "copy pg_temp." + dialect.quote(scratch) + " ("
                + dialect.list(columns, column -> dialect.quote(column.name())) + ") from stdin";
        long taken;
        try {
            taken = connection().unwrap(PGConnection.class).getCopyAPI().copyIn(copy, rows);
            brought(scratch, taken);
        } catch (SQLException failed) {
            throw failure(failed);
        } catch (IOException failed) {
            throw new WarehouseException("Cannot hand rows over: " + failed.getMessage(), failed);
        }
        execute(dialect.learn(scratch));
        return taken;
    }

    /** A planner that thinks that few rows come would else read the whole table for each of them. */
    @Override
    public void index(String scratch, String column) {
        execute("create index on pg_temp." + dialect.quote(scratch) + " (" + dialect.quote(column) + ")");
    }

    /** Of an empty table the planner learns nothing: what it knows to be empty it takes for one row, and looks it up for each of another. */
    @Override
    public OptionalLong keep(String scratch, String query) {
        OptionalLong rows = super.keep(scratch, query);
        if (rows.orElse(1) > 0) {
            later(dialect.learn(scratch));
        }
        return rows;
    }

    @Override
    public OptionalLong append(String scratch, String query) {
        OptionalLong rows = super.append(scratch, query);
        statistics.learnScratch(scratch, rows.orElse(Long.MAX_VALUE));
        return rows;
    }

    @Override
    public void expect(long bytes) {
        stager().expect(bytes);
    }

    /** What the server says it took is compared with what stands there with every other scratch table. */
    @Override
    public void receive(String scratch) {
        HandedRows handed = new HandedRows(stager(), scratch);
        create(scratch, handed.columns());
        long[] taken = new long[1];
        try {
            Pipe.between(handed::write, rows -> taken[0] = copyIn(scratch, handed.columns(), rows));
        } catch (IOException failed) {
            throw new WarehouseException("Cannot hand rows over: " + failed.getMessage(), failed);
        }
        long staged = handed.count();
        if (staged != taken[0]) {
            throw new LostRowsException("of " + staged + " staged rows it took over " + taken[0]);
        }
    }

    @Override
    public void handOver(String query, String scratch) {
        Stager to = stager();
        List<Column> columns = describe(query);
        withFile(file -> {
            try (OutputStream rows = Files.newOutputStream(file)) {
                connection()
                        .unwrap(PGConnection.class)
                        .getCopyAPI()
                        .copyOut("copy (" + query + ") to stdout (format csv)", rows);
            } catch (SQLException failed) {
                throw failure(failed);
            }
            String types = columns.stream()
                    .map(column -> to.dialect().text(column.name()) + ": "
                            + to.dialect().text(to.dialect().type(column.type())))
                    .collect(Collectors.joining(", "));
            String rows = "select * from read_csv(" + to.dialect().text(file.toString())
                    + ", auto_detect = false, header = false, delim = ',', quote = '\"', escape = '\"', nullstr = '',"
                    + " allow_quoted_nulls = false, new_line = '\\n', columns = {" + types + "}";
            try {
                to.execute(to.dialect().keep(scratch, rows + ")"));
            } catch (WarehouseException longerThanUsual) {
                to.execute(to.dialect().keep(scratch, rows + LONG_LINES + ")"));
            }
        });
    }

    private interface FileWork {
        void on(Path file) throws IOException;
    }

    /** Runs work with a file in between that is removed afterwards. */
    private static void withFile(FileWork work) {
        try {
            Path file = PrivateFolder.file(".csv");
            try {
                work.on(file);
            } finally {
                Files.deleteIfExists(file);
            }
        } catch (IOException failed) {
            throw new WarehouseException("Cannot hand rows over: " + failed.getMessage(), failed);
        }
    }

    @Override
    public void close() {
        lock.release();
        stager.close();
        super.close();
    }

    @Override
    protected SqlType type(ResultSetMetaData data, int column) throws SQLException {
        return PostgresTypes.of(data.getColumnTypeName(column), data.getPrecision(column), data.getScale(column));
    }

    @Override
    protected boolean readsModernTypes() {
        return true;
    }

    @Override
    protected WarehouseException failure(SQLException failed) {
        return PostgresMessages.failure(failed, title());
    }
}
