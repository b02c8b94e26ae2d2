package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Catalog;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Engine.Opening;
import dev.zeitkammer.engine.JdbcWarehouse;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.StagerBeside;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Upkeep;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.WarehouseException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * A schema of a catalog of Iceberg tables, on a cluster. Scratch relations are tables in a schema of the session's own; staged rows
 * come as Parquet files through a folder that both sides see.
 */
public final class SparkWarehouse extends JdbcWarehouse {

    /** How the URLs of this engine begin. */
    public static final String URL = "jdbc:hive2:";

    private static final String DEFAULT_SCHEMA = "main";

    /** Tables of this engine's own in the schema of the books. */
    private static final Set<String> OWN_TABLES = Set.of(Branches.DECIDED, LoadLock.TABLE);

    /** To write rows, and to read them again, takes longer than to join them twice where they are many. */
    private static final long CHEAPLY_KEPT = 64L << 20;

    private final DatabaseAddress address;
    private final Opening opening;
    private final String catalog;
    private final String schema;
    private final Exchange exchange;
    private final SparkDialect dialect = new SparkDialect();
    private final Literals literals = new Literals(dialect);
    private final Branches branches = new Branches(this);
    private final LoadLock lock = new LoadLock(this);
    private final ScratchFiles scratch;
    private final StagerBeside stager;
    private final WholeInserts inserts = new WholeInserts(this);
    private final GatheredBooks gathered = new GatheredBooks(this);
    private final SparkCatalog tables;
    private final MadeDefinitions made;
    private boolean isLeaving;

    private SparkWarehouse(DatabaseAddress address, Opening opening, Connection connection) {
        super(connection);
        DatabaseAddress.Cluster cluster = Objects.requireNonNull(address.cluster());
        this.address = address;
        this.opening = opening;
        this.stager = new StagerBeside(opening.stagers());
        this.catalog = dialect.quote(String.valueOf(cluster.catalog()));
        this.schema = address.schema() == null ? DEFAULT_SCHEMA : address.schema();
        this.tables = new SparkCatalog(this, schema);
        this.made = new MadeDefinitions(this);
        this.exchange = new Exchange(
                opening.folder().resolve(String.valueOf(cluster.exchange())).toAbsolutePath());
        this.scratch = new ScratchFiles(this, dialect, exchange);
    }

    static SparkWarehouse open(DatabaseAddress address, Opening opening) {
        SparkWarehouse warehouse = new SparkWarehouse(address, opening, Connecting.to(address, opening.folder()));
        try {
            warehouse.begin();
            return warehouse;
        } catch (WarehouseException failed) {
            warehouse.close();
            throw new WarehouseException(
                    "Cannot open the warehouse " + address + ": schema " + warehouse.schema + " of catalog "
                            + warehouse.catalog + " cannot be used (" + failed.getMessage()
                            + "); is the catalog one of the cluster's, and may the user make the schema?",
                    failed);
        }
    }

    private void begin() {
        if (opening.access() == Access.WRITE || opening.access() == Access.REHEARSE) {
            execute("create namespace if not exists " + catalog + "." + dialect.quote(schema));
        }
        boolean stands = tables.stands(schema);
        execute("use " + catalog + (stands ? "." + dialect.quote(schema) : ""));
    }

    /** Runs a statement over a connection of its own, whatever this one does. */
    void beside(String sql) {
        try (Connection another = Connecting.to(address, opening.folder());
                Statement statement = another.createStatement()) {
            statement.execute(sql);
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    /** The condition that this session still has the lock; empty where it needs none. */
    Optional<String> isStillLocked() {
        return lock.isStillHeld();
    }

    /** Whether writes to a table go to the branch of a transaction. */
    boolean takesBranches(String table) {
        return tables.isBranched(table);
    }

    /** A table that others made is set to take writes to branches. */
    @Override
    public List<String> madeReady(String table) {
        String unqualified = unqualified(table(table));
        return standing().stream().anyMatch(unqualified::equalsIgnoreCase) && !takesBranches(unqualified)
                ? List.of("alter table " + table(table) + " set tblproperties ('" + Branches.ENABLED + "' = 'true')")
                : List.of();
    }

    /** The name of the catalog, quoted. */
    String catalogName() {
        return catalog;
    }

    @Override
    protected List<String> batches(List<String> statements) {
        return statements;
    }

    @Override
    protected void executes(String sql) {
        if (branches.isStuck() && !isLeaving) {
            throw new WarehouseException(
                    "A commit was decided and not carried out; the next load does that first", null);
        }
        branches.executes(sql);
    }

    @Override
    protected Optional<String> withValues(String sql, @Nullable Object... values) {
        writeGathered(sql);
        return Optional.of(literals.into(sql, values));
    }

    /** What was entered in the books and not written yet is written before a statement that reads them. */
    private void writeGathered(String sql) {
        if (gathered.areIn(sql)) {
            gathered.flushed().ifPresent(this::execute);
        }
    }

    @Override
    protected Optional<String> adapted(String sql) {
        Optional<String> taken = gathered.adapted(sql, isInTransaction());
        taken.ifPresent(this::writeGathered);
        return taken;
    }

    @Override
    public void update(String sql, @Nullable Object... values) {
        execute(literals.into(sql, values));
    }

    /** The driver does not say it. */
    @Override
    protected OptionalLong written(Statement statement) {
        return OptionalLong.empty();
    }

    @Override
    public OptionalLong keep(String relation, String query) {
        scratch.keep(relation, query);
        return OptionalLong.empty();
    }

    @Override
    public OptionalLong append(String relation, String query) {
        scratch.append(relation, query);
        return OptionalLong.empty();
    }

    /** The files of a folder get the name of a scratch relation. */
    void standsIn(Path folder, String relation) {
        named(relation, dialect.files(relation, Exchange.seen(folder)));
    }

    @Override
    public void publish(List<TableChange> changes, List<BookChange> books) {
        changes.forEach(change -> branches.writes(unqualified(change.table())));
        super.publish(
                changes.stream().map(inserts::of).toList(),
                books.stream()
                        .map(change -> gathered.isRelation(change.book()) ? change : inserts.of(change))
                        .toList());
    }

    /** The name of a table without the catalog. */
    String unqualified(String table) {
        return table.startsWith(catalog + ".") ? table.substring(catalog.length() + 1) : table;
    }

    @Override
    protected void beginTransaction(boolean lasting) {
        flush();
        branches.begin(lasting);
        made.begin();
    }

    /** Tables and columns stand at once; those that a transaction made are taken away with it. */
    @Override
    protected void defined(String sql) {
        made.made(sql);
    }

    @Override
    protected void begun() {
        lock.keep();
    }

    @Override
    protected void commitTransaction() {
        flush();
        gathered.flushed().ifPresent(this::execute);
        branches.commit();
        made.forget();
        scratch.forget();
    }

    @Override
    protected void takeTransactionBack() {
        gathered.discard();
        if (branches.isStuck()) {
            return; // it is decided, and what it made is part of it
        }
        try {
            branches.takeBack();
            made.takeBack();
            scratch.forget();
        } catch (WarehouseException lost) {
            // the connection is gone; the next load drops what this one left
        }
    }

    @Override
    public String title() {
        return address.toString();
    }

    @Override
    protected Catalog catalog() {
        return tables;
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    protected void forgetCatalog() {
        tables.forget();
        inserts.forget();
    }

    /** The tables of the star and of the books, each with its schema, quoted. */
    Set<String> standing() {
        return tables.standing();
    }

    /** Whether a table is one of the books. */
    boolean isBook(String table) {
        return tables.isBook(table);
    }

    @Override
    public List<Column> describe(String query) {
        return query(
                "describe query " + query,
                row -> new Column(String.valueOf(row.text(1)), SparkTypes.of(String.valueOf(row.text(2)))));
    }

    @Override
    public void createBooks() {
        execute("create namespace if not exists " + catalog + "." + dialect.quote(tables.booksSchema()));
        branches.create();
        lock.create();
    }

    @Override
    public String schema() {
        return schema;
    }

    @Override
    protected String ownTable(String name) {
        return catalog + "." + dialect.quote(schema) + "." + dialect.quote(name);
    }

    @Override
    public String told(BookChange change) {
        return gathered.adapted(change.sql(), false).orElseThrow();
    }

    /** In a warehouse of the time before the books were gathered each stays a table. */
    @Override
    public void createBooks(Map<String, List<Column>> books) {
        if (standsAsBook("loads")) {
            super.createBooks(books);
        } else {
            gathered.create(books);
        }
    }

    @Override
    public String book(String name) {
        boolean isTable = name.startsWith("`") || OWN_TABLES.contains(name);
        return (isTable ? Optional.<String>empty() : gathered.relation(name)).orElseGet(() -> bookTable(name));
    }

    /** A table in the schema of the books. */
    String bookTable(String name) {
        String quoted = name.startsWith("`") ? name : dialect.quote(name);
        return catalog + "." + dialect.quote(tables.booksSchema()) + "." + quoted;
    }

    /** Whether a table stands in the schema of the books. */
    boolean standsAsBook(String table) {
        return tables.bookTables().contains(table);
    }

    /** The books that stand in one table. */
    Set<String> gatheredBooks() {
        return gathered.books().keySet();
    }

    @Override
    public List<String> bookTables() {
        return tables.bookTables().stream().sorted().map(this::bookTable).toList();
    }

    @Override
    public String stagingSchema() {
        return "staging_" + schema;
    }

    @Override
    protected JdbcWarehouse connectedAgain() {
        SparkWarehouse worker = open(address, opening);
        stager.confinesAlso(worker.stager);
        return worker;
    }

    /** Two transactions that write to the same table of the books cannot both be put forward. */
    @Override
    public boolean worksSideBySide() {
        return false;
    }

    @Override
    public List<Upkeep> tidy(List<String> tables, int days) {
        branches.recover();
        return new FilesUpkeep(this).tidy(tables, days);
    }

    @Override
    public Upkeep.Size size(List<String> tables) {
        return new FilesUpkeep(this).size(tables);
    }

    @Override
    public boolean lock() {
        if (!tables.books().contains(LoadLock.TABLE)) {
            createBooks();
        }
        branches.forgetCarriedOut();
        branches.forgetBase();
        LoadLock.Taken taken = lock.take();
        if (taken == LoadLock.Taken.LEFT_BEHIND || (taken == LoadLock.Taken.YES && branches.isUnfinished())) {
            branches.recover();
        }
        if (taken != LoadLock.Taken.NO) {
            exchange.removeLeftBehind();
        }
        return taken != LoadLock.Taken.NO;
    }

    @Override
    public void confine(Set<Path> folders) {
        stager.confine(
                Stream.concat(folders.stream(), Stream.of(exchange.shared())).collect(Collectors.toSet()));
    }

    @Override
    public Stager stager() {
        return stager.get();
    }

    @Override
    public boolean keepsCheaply(long bytes) {
        return bytes <= CHEAPLY_KEPT;
    }

    @Override
    public void expect(long bytes) {
        stager().expect(bytes);
    }

    @Override
    public void carry(String relation, List<Column> columns, Iterable<List<@Nullable Object>> rows) {
        stager().carry(relation, columns, rows);
        receive(relation);
        stager().dropScratch(relation);
    }

    @Override
    public void receive(String relation) {
        scratch.receive(relation, stager());
    }

    @Override
    public void handOver(String query, String relation) {
        scratch.handOver(query, relation, stager());
    }

    @Override
    public void close() {
        try {
            leave();
        } finally {
            stager.close();
            closeSession();
        }
    }

    private void closeSession() {
        try {
            super.close();
        } catch (WarehouseException lost) {
            // nothing is written at the end of a session, and whoever needed it has told that it is lost
        }
    }

    private void leave() {
        isLeaving = true;
        try {
            branches.forgetCarriedOut();
        } catch (WarehouseException lost) {
            // they do no harm, and the next load deletes them
        }
        try {
            lock.release();
        } catch (WarehouseException lost) {
            // the connection is gone; the next load finds out that nobody holds the lock
        }
        exchange.remove();
    }

    @Override
    protected SqlType type(ResultSetMetaData data, int column) throws SQLException {
        return SparkTypes.of(data.getColumnTypeName(column));
    }

    @Override
    protected boolean readsModernTypes() {
        return false;
    }

    @Override
    protected WarehouseException failure(SQLException failed) {
        return SparkMessages.failure(failed, title());
    }
}
