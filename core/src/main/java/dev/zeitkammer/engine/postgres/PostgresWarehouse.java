package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.JdbcWarehouse;
import dev.zeitkammer.engine.LostRowsException;
import dev.zeitkammer.engine.PrivateFolder;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
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
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
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

    private static final String PUBLIC = "public";
    private static final String STAGING = "staging";

    private final DatabaseAddress address;
    private final Path folder;
    private final Access access;
    private Supplier<? extends Stager> stagers;
    private final String schema;
    private final String books;
    private final PostgresDialect dialect = new PostgresDialect();
    private final PlannerStatistics statistics = new PlannerStatistics(this);
    private @Nullable Stager stager;
    private @Nullable Map<String, List<String>> counted;
    private boolean holdsLock;
    private long holder;

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
        if (holdsLock) {
            worker.holder = number("select pg_backend_pid()");
        }
        return worker;
    }

    /**
     * A worker keeps another load from beginning while its own transaction runs, and then looks whether the connection that it
     * works for still has the lock: nobody can take it in between.
     */
    @Override
    protected void begun() {
        statistics.forget();
        if (holder == 0) {
            return;
        }
        boolean mayWork = query(
                        "select pg_try_advisory_xact_lock_shared(hashtextextended(?, 0))",
                        row -> row.flag(1),
                        working())
                .get(0);
        boolean isHeld = number(
                        "select count(*) from pg_locks where locktype = 'advisory' and granted and pid = ?"
                                + " and ((cast(classid as bigint) << 32) | cast(objid as bigint)) = hashtextextended(?, 0)",
                        holder,
                        lockName())
                > 0;
        if (!mayWork || !isHeld) {
            throw new WarehouseException(
                    "The load lost its lock, since the connection that held it ended (see idle_session_timeout of the"
                            + " server); nothing more is loaded. Load again",
                    null);
        }
    }

    private String lockName() {
        return "zeitkammer " + books;
    }

    private String working() {
        return lockName() + " working";
    }

    @Override
    public String title() {
        return address.toString();
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    protected List<Column> catalogColumns(String table) {
        return columns(table, "('r', 'p')");
    }

    @Override
    public List<Column> viewColumns(String view) {
        return columns(view, "('v')");
    }

    @Override
    public List<String> required(String table) {
        return query(
                "select a.attname from pg_attribute as a join pg_class as c on c.oid = a.attrelid"
                        + " join pg_namespace as n on n.oid = c.relnamespace"
                        + " where n.nspname = ? and lower(c.relname) = lower(?) and a.attnum > 0 and not a.attisdropped"
                        + " and a.attnotnull and not a.atthasdef and a.attidentity = '' order by a.attnum",
                row -> String.valueOf(row.text(1)),
                schema,
                table);
    }

    @Override
    public void publish(List<TableChange> changes, List<BookChange> books) {
        super.publish(changes, books);
        changes.stream()
                .filter(TableChange.Insert.class::isInstance)
                .map(TableChange::table)
                .distinct()
                .flatMap(table -> counted().getOrDefault(table, List.of()).stream())
                .forEach(sql -> query(sql, row -> true));
        changes.stream().map(TableChange::table).distinct().forEach(statistics::learn);
    }

    @Override
    public List<Held> constraints(String table) {
        return query(
                "select c.contype::text, (select string_agg(a.attname, chr(1) order by a.attnum) from pg_attribute as a"
                        + " where a.attrelid = c.conrelid and a.attnum = any (c.conkey))"
                        + " from pg_constraint as c join pg_class as r on r.oid = c.conrelid"
                        + " join pg_namespace as n on n.oid = r.relnamespace"
                        + " where n.nspname = ? and lower(r.relname) = lower(?) and c.contype in ('p', 'u', 'f')"
                        + " union all select 'n', a.attname from pg_attribute as a join pg_class as r on r.oid = a.attrelid"
                        + " join pg_namespace as n on n.oid = r.relnamespace"
                        + " where n.nspname = ? and lower(r.relname) = lower(?) and a.attnum > 0 and a.attnotnull",
                row -> new Held(
                        String.valueOf(row.text(1)),
                        List.of(String.valueOf(row.text(2)).split("\u0001"))),
                schema,
                table,
                schema,
                table);
    }

    /**
     * For tables of which the database itself counts a column, such as tables that others made: statements after which it counts
     * on behind the keys that stand.
     */
    private Map<String, List<String>> counted() {
        if (counted == null) {
            Map<String, List<String>> found = new HashMap<>();
            query(
                    "select c.relname, a.attname, pg_get_serial_sequence(a.attrelid::regclass::text, a.attname)"
                            + " from pg_attribute as a join pg_class as c on c.oid = a.attrelid"
                            + " join pg_namespace as n on n.oid = c.relnamespace"
                            + " where n.nspname = ? and c.relkind in ('r', 'p') and a.attnum > 0 and not a.attisdropped"
                            + " and (a.attidentity <> '' or a.atthasdef)"
                            + " and pg_get_serial_sequence(a.attrelid::regclass::text, a.attname) is not null",
                    row -> {
                        String table = table(String.valueOf(row.text(1)));
                        return found.computeIfAbsent(table, first -> new ArrayList<>())
                                .add(passed(table, String.valueOf(row.text(2)), String.valueOf(row.text(3))));
                    },
                    schema);
            counted = found;
        }
        return counted;
    }

    private String passed(String table, String column, String sequence) {
        return "select setval(" + dialect().text(sequence) + ", max("
                + dialect().quote(column) + ")) from " + table + " having max("
                + dialect().quote(column) + ") > (select last_value from " + sequence + ")";
    }

    private List<Column> columns(String relation, String kinds) {
        return query(
                "select a.attname, format_type(a.atttypid, a.atttypmod) from pg_attribute as a"
                        + " join pg_class as c on c.oid = a.attrelid join pg_namespace as n on n.oid = c.relnamespace"
                        + " where n.nspname = ? and lower(c.relname) = lower(?) and c.relkind in " + kinds
                        + " and a.attnum > 0 and not a.attisdropped order by a.attnum",
                row -> new Column(String.valueOf(row.text(1)), PostgresTypes.of(String.valueOf(row.text(2)))),
                schema,
                relation);
    }

    @Override
    public String schema() {
        return schema;
    }

    @Override
    public Optional<String> comment(String schemaOfRelation, String relation) {
        return query(
                        "select coalesce(obj_description(c.oid, 'pg_class'), '') from pg_class as c"
                                + " join pg_namespace as n on n.oid = c.relnamespace"
                                + " where n.nspname = ? and lower(c.relname) = lower(?) and c.relkind in ('r', 'p', 'v', 'm', 'f')",
                        row -> String.valueOf(row.text(1)),
                        schemaOfRelation,
                        relation)
                .stream()
                .findFirst();
    }

    @Override
    public Map<String, String> comments(String table) {
        Map<String, String> comments = new HashMap<>();
        query(
                "select coalesce(a.attname, ''), d.description from pg_description as d join pg_class as c on c.oid = d.objoid"
                        + " join pg_namespace as n on n.oid = c.relnamespace"
                        + " left join pg_attribute as a on a.attrelid = c.oid and a.attnum = d.objsubid and d.objsubid > 0"
                        + " where d.classoid = cast('pg_class' as regclass) and n.nspname = ? and lower(c.relname) = lower(?)",
                row -> comments.put(String.valueOf(row.text(1)), row.text(2)),
                schema,
                table);
        return comments;
    }

    @Override
    public Set<String> indexes(String table) {
        return Set.copyOf(query(
                "select indexname from pg_indexes where schemaname = ? and lower(tablename) = lower(?)",
                row -> String.valueOf(row.text(1)),
                schema,
                table));
    }

    @Override
    public Set<String> books() {
        return Set.copyOf(query(
                "select tablename from pg_tables where schemaname = ?", row -> String.valueOf(row.text(1)), books));
    }

    @Override
    public void createBooks() {
        BooksSchema.create(this, books, schema);
    }

    @Override
    public String table(String name) {
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
            Upkeep.Size before = size(table);
            execute("vacuum (analyze) " + table);
            done.add(new Upkeep(table.replace("\"", ""), before, size(table)));
        }
        return done;
    }

    private Upkeep.Size size(String table) {
        return new Upkeep.Size(
                OptionalLong.empty(), number("select pg_total_relation_size(cast(? as regclass))", table));
    }

    @Override
    public boolean lock() {
        holdsLock = query("select pg_try_advisory_lock(hashtextextended(?, 0))", row -> row.flag(1), lockName())
                .get(0);
        if (holdsLock && !nobodyWorks()) {
            unlock();
            holdsLock = false;
        }
        return holdsLock;
    }

    /** Whether no worker of a load that lost its lock is in the middle of a table. */
    private boolean nobodyWorks() {
        boolean nobody = query("select pg_try_advisory_lock(hashtextextended(?, 0))", row -> row.flag(1), working())
                .get(0);
        if (nobody) {
            query("select pg_advisory_unlock(hashtextextended(?, 0))", row -> row.flag(1), working());
        }
        return nobody;
    }

    @Override
    public void confine(Set<Path> folders) {
        Supplier<? extends Stager> open = stagers;
        stagers = () -> {
            Stager confined = open.get();
            confined.confine(folders);
            return confined;
        };
        if (stager != null) {
            stager.confine(folders);
        }
    }

    @Override
    public Stager stager() {
        if (stager == null) {
            stager = stagers.get();
        }
        return stager;
    }

    @Override
    public void carry(String scratch, List<Column> columns, Iterable<List<@Nullable Object>> rows) {
        create(scratch, columns);
        copyIn(scratch, columns, new CsvRows(rows.iterator()));
    }

    private void create(String scratch, List<Column> columns) {
        execute(dialect.drop(scratch) + ";\ncreate temporary table " + dialect.quote(scratch) + " ("
                + dialect.list(columns, column -> dialect.quote(column.name()) + " " + dialect.type(column.type()))
                + ")");
    }

    private void copyIn(String scratch, List<Column> columns, InputStream rows) {
        String copy = "copy pg_temp." + dialect.quote(scratch) + " ("
                + dialect.list(columns, column -> dialect.quote(column.name())) + ") from stdin (format csv)";
        try {
            brought(
                    scratch,
                    connection().unwrap(PGConnection.class).getCopyAPI().copyIn(copy, rows));
        } catch (SQLException failed) {
            throw failure(failed);
        } catch (IOException failed) {
            throw new WarehouseException("Cannot hand rows over: " + failed.getMessage(), failed);
        }
        execute("analyze pg_temp." + dialect.quote(scratch));
    }

    /** A planner that thinks that few rows come would else read the whole table for each of them. */
    @Override
    public void index(String scratch, String column) {
        execute("create index on pg_temp." + dialect.quote(scratch) + " (" + dialect.quote(column) + ")");
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

    @Override
    public void receive(String scratch) {
        Stager from = stager();
        List<Column> columns = from.describe("select * from " + scratch);
        create(scratch, columns);
        try {
            Pipe.between(
                    file -> from.execute("copy (select * from " + scratch + ") to "
                            + from.dialect().text(file.toString()) + " (format csv, header false)"),
                    rows -> copyIn(scratch, columns, rows));
        } catch (IOException failed) {
            throw new WarehouseException("Cannot hand rows over: " + failed.getMessage(), failed);
        }
        long staged = from.number("select count(*) from " + scratch);
        long taken = number("select count(*) from " + scratch);
        if (staged != taken) {
            throw new LostRowsException("of " + staged + " staged rows it took over " + taken);
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
            to.execute(to.dialect()
                    .keep(
                            scratch,
                            "select * from read_csv(" + to.dialect().text(file.toString())
                                    + ", auto_detect = false, header = false, delim = ',', quote = '\"', escape = '\"', nullstr = '',"
                                    + " allow_quoted_nulls = false, columns = {" + types + "})"));
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

    /** The server gives a lock back some time after the connection has ended; whoever comes next need not wait for that. */
    private void unlock() {
        try {
            query("select pg_advisory_unlock(hashtextextended(?, 0))", row -> row.flag(1), lockName());
        } catch (WarehouseException lost) {
            // the server gives it back by itself
        }
    }

    @Override
    public void close() {
        if (holdsLock) {
            unlock();
        }
        if (stager != null) {
            stager.close();
        }
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
