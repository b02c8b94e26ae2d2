package dev.zeitkammer.engine.duckdb;

import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.Catalog;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.JdbcWarehouse;
import dev.zeitkammer.engine.PrivateFolder;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Upkeep;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.WarehouseException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Driver;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Optional;
import java.util.OptionalDouble;
import java.util.OptionalLong;
import java.util.Properties;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.duckdb.DuckDBAppender;
import org.duckdb.DuckDBConnection;
import org.duckdb.DuckDBDriver;
import org.duckdb.DuckDBPreparedStatement;
import org.jspecify.annotations.Nullable;

/** The embedded warehouse: one file, opened by one program at a time for writing. */
public final class DuckDbWarehouse extends JdbcWarehouse {

    /** How the URLs of this engine begin; what follows is a file. */
    public static final String URL = "jdbc:duckdb:";

    static final String BOOKS = "zeitkammer";
    private static final String STAGING = "staging";
    private static final List<String> SETTINGS = List.of(
            "set integer_division = true",
            "set enable_progress_bar = true",
            "set enable_progress_bar_print = false",
            "set TimeZone = 'UTC'",
            "set secret_directory = ''",
            WrittenRows.COUNTING);

    /** Below so many bytes one thread is faster than waking others, since most of the time goes into planning. */
    private static final long LIGHT = 4L << 20;

    private static final long LIGHT_HELD = 64L << 20;

    /** A scratch table of more rows than these bytes hold takes longer to write and read than joins take to be made again. */
    private static final long CHEAPLY_KEPT = 4L << 20;

    /** The engine takes four fifths of the machine by itself; half of the machine is left to others. */
    private static final double SHARE = 5.0 / 8;

    private static final int KILO = 1024;

    private final String title;
    private final @Nullable Path file;
    private final @Nullable String schema;
    private final DuckDbDialect dialect = new DuckDbDialect();
    private final DuckDbCatalog catalog = new DuckDbCatalog(this);
    private @Nullable Boolean isLight;
    private @Nullable Double memory;

    private DuckDbWarehouse(Connection connection, String title, @Nullable Path file, @Nullable String schema) {
        super(connection);
        this.title = title;
        this.file = file;
        this.schema = schema;
    }

    /** Loads the engine's library. */
    public static void makeReady() {
        try {
            new DuckDBDriver().connect(URL, new Properties()).close();
        } catch (SQLException refused) {
            // whoever opens a warehouse is told
        }
    }

    /**
     * Opens the file that the address names.
     *
     * @param memory the most to use, such as 2GB; half of the machine's where nothing is said
     */
    public static DuckDbWarehouse open(DatabaseAddress address, Path folder, Access access, Optional<String> memory) {
        String name = fileOf(address);
        if (isInMemory(address)) {
            return connect(null, "memory", address.schema(), false, memory);
        }
        if (name.matches(".*[;?].*")) {
            throw new WarehouseException(
                    "Cannot open the warehouse " + address.name()
                            + ": the name of its file holds ; or ?, behind which the"
                            + " engine takes options, and none are taken; write url: \"jdbc:duckdb:FILE\"",
                    null);
        }
        Path file = folder.resolve(name);
        boolean exists = Files.exists(file);
        if (!exists && access == Access.READ) {
            throw new WarehouseException(
                    "There is no warehouse yet: " + file + " does not exist; load something first", null);
        }
        if (!exists && access != Access.WRITE) {
            return connect(null, file.toString(), address.schema(), false, memory);
        }
        boolean reads = access == Access.READ || access == Access.PLAN;
        DuckDbWarehouse warehouse = connect(file, file.toString(), address.schema(), reads, memory);
        if (!exists) {
            PrivateFolder.guard(file);
        }
        if (!reads) {
            removeSpill(file);
        }
        if (access == Access.WRITE && address.schema() != null) {
            warehouse.execute("create schema if not exists " + warehouse.dialect.quote(address.schema()));
        }
        return warehouse;
    }

    /** The file that an address names, relative to the project's folder. */
    static String fileOf(DatabaseAddress address) {
        return address.url().substring(URL.length());
    }

    static boolean isInMemory(DatabaseAddress address) {
        String file = fileOf(address);
        return file.isEmpty() || file.startsWith(":memory:");
    }

    /** What a process that was killed could not hold in memory is of no use to anybody. */
    private static void removeSpill(Path file) {
        Path spill = Path.of(file + ".tmp");
        if (!Files.isDirectory(spill)) {
            return;
        }
        try (Stream<Path> left = Files.list(spill)) {
            for (Path each : left.toList()) {
                Files.deleteIfExists(each);
            }
            Files.deleteIfExists(spill);
        } catch (IOException remains) {
            throw new WarehouseException(
                    "Cannot remove " + spill + ", which a load left behind that was killed: " + remains.getMessage()
                            + "; remove it, and run this again",
                    remains);
        }
    }

    private static DuckDbWarehouse connect(
            @Nullable Path file, String title, @Nullable String schema, boolean readOnly, Optional<String> memory) {
        Properties properties = new Properties();
        properties.setProperty("autoinstall_known_extensions", "false");
        properties.setProperty("autoload_known_extensions", "false");
        memory.ifPresent(limit -> properties.setProperty("memory_limit", limit));
        if (readOnly) {
            properties.setProperty("access_mode", "READ_ONLY");
        }
        try {
            Driver driver = new DuckDBDriver();
            Connection connection = driver.connect(file == null ? URL : URL + file, properties);
            DuckDbWarehouse warehouse = new DuckDbWarehouse(connection, title, file, schema);
            warehouse.execute(String.join("; ", SETTINGS));
            if (memory.isEmpty()) {
                warehouse.limit((long) (warehouse.memory() * SHARE));
            }
            warehouse.expect(0);
            return warehouse;
        } catch (SQLException refused) {
            String message = "Cannot open the warehouse " + title + ": " + DuckDbMessages.whyNotOpened(refused);
            throw DuckDbMessages.isOpenElsewhere(refused)
                    ? new BusyException(message, refused)
                    : new WarehouseException(message, refused);
        }
    }

    /** One in memory, which reads staged files for another warehouse; what does not fit goes to the system's temporary folder. */
    public static DuckDbWarehouse inMemory(Optional<String> memory) {
        DuckDbWarehouse warehouse = connect(null, "memory", null, false, memory);
        warehouse.execute("set temp_directory = "
                + warehouse.dialect.text(PrivateFolder.path().resolve("spill").toString()));
        return warehouse;
    }

    /** Its hashes may be others in each version. */
    @Override
    protected String version() {
        try {
            return "DuckDB " + connection().getMetaData().getDatabaseProductVersion();
        } catch (SQLException failed) {
            throw new WarehouseException("Cannot tell the version of the engine: " + failed.getMessage(), failed);
        }
    }

    /** Statements reach no file from now on but those below the folders, and what the engine itself has open. */
    @Override
    public void confine(Set<Path> folders) {
        String allowed = Stream.concat(folders.stream(), Stream.of(PrivateFolder.path()))
                .map(folder -> dialect.text(folder.toString()))
                .collect(Collectors.joining(", ", "[", "]"));
        execute("set allowed_directories = " + allowed + "; set enable_external_access = false");
    }

    @Override
    public void expect(long bytes) {
        boolean light = bytes < LIGHT && held() < LIGHT_HELD;
        if (isLight == null || light != isLight) {
            execute(light ? "set threads = 1" : "reset threads");
            isLight = light;
        }
    }

    @Override
    public boolean countsCheaply() {
        return true;
    }

    @Override
    public boolean keepsCheaply(long bytes) {
        return bytes <= CHEAPLY_KEPT;
    }

    /** The bytes that the engine takes at most. */
    private double memory() {
        if (memory == null) {
            memory = memoryLimit();
        }
        return memory;
    }

    private double memoryLimit() {
        String[] limit = firstText("select current_setting('memory_limit')")
                .orElse("0 bytes")
                .split(" ");
        int power = Math.max(0, List.of("bytes", "KiB", "MiB", "GiB", "TiB").indexOf(limit[1]));
        return Double.parseDouble(limit[0]) * Math.pow(KILO, power);
    }

    private void limit(long bytes) {
        memory = (double) bytes;
        execute("set memory_limit = '" + bytes + "B'");
    }

    @Override
    protected OptionalLong written(Statement statement) throws SQLException {
        OptionalLong told = super.written(statement);
        return told.isPresent() ? told : WrittenRows.of(connection().unwrap(DuckDBConnection.class));
    }

    @Override
    protected String counting(String scratch) {
        return "select count(*), bit_xor(hash(zk_first)) from " + scratch + " as t(zk_first)";
    }

    private long held() {
        try {
            return file == null ? 0 : Files.size(file);
        } catch (IOException unknown) {
            return LIGHT_HELD;
        }
    }

    @Override
    public String title() {
        return title;
    }

    @Override
    protected Catalog catalog() {
        return catalog;
    }

    @Override
    protected void forgetCatalog() {
        catalog.forget();
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public OptionalDouble progress() {
        if (!(running().orElse(null) instanceof DuckDBPreparedStatement statement)) {
            return OptionalDouble.empty();
        }
        try {
            double percent = statement.getQueryProgress().getPercentage();
            return percent < 0 ? OptionalDouble.empty() : OptionalDouble.of(Math.min(1, percent / 100));
        } catch (SQLException ended) {
            return OptionalDouble.empty();
        }
    }

    @Override
    public String schema() {
        return schema == null ? "main" : schema;
    }

    @Override
    public void createBooks() {
        execute("create schema if not exists " + BOOKS);
    }

    @Override
    protected JdbcWarehouse connectedAgain() {
        try {
            Connection second = connection().unwrap(DuckDBConnection.class).duplicate();
            DuckDbWarehouse warehouse = new DuckDbWarehouse(second, title, file, schema);
            warehouse.execute(String.join("; ", SETTINGS));
            return warehouse;
        } catch (SQLException refused) {
            throw failure(refused);
        }
    }

    /** All tables stand in one file; what is still in its log goes into it. */
    @Override
    public List<Upkeep> tidy(List<String> tables, int days) {
        Upkeep.Size before = size(tables);
        execute("checkpoint");
        return List.of(new Upkeep(file == null ? title : file.getFileName().toString(), before, size(tables)));
    }

    @Override
    public Upkeep.Size size(List<String> tables) {
        long files = 0;
        long bytes = 0;
        for (Path each : file == null ? List.<Path>of() : List.of(file, Path.of(file + ".wal"))) {
            try {
                bytes += Files.size(each);
                files++;
            } catch (IOException isNotThere) {
                // the log is there only while something is in it
            }
        }
        return new Upkeep.Size(OptionalLong.of(files), bytes);
    }

    @Override
    public boolean lock() {
        return true;
    }

    @Override
    protected String ownTable(String name) {
        return dialect.quote(schema()) + "." + dialect.quote(name);
    }

    @Override
    public String stagingSchema() {
        return schema == null ? STAGING : STAGING + "_" + schema;
    }

    @Override
    public String book(String name) {
        return BOOKS + "." + name;
    }

    @Override
    public Stager stager() {
        return this;
    }

    @Override
    public void carry(String scratch, List<Column> columns, Iterable<List<@Nullable Object>> rows) {
        execute("create or replace temp table " + dialect.quote(scratch) + " ("
                + dialect.list(columns, column -> dialect.quote(column.name()) + " " + dialect.type(column.type()))
                + ")");
        try (DuckDBAppender appender =
                connection().unwrap(DuckDBConnection.class).createAppender("temp", "main", scratch)) {
            long appended = Appending.rows(appender, rows);
            appender.flush();
            brought(scratch, appended);
        } catch (SQLException failed) {
            throw failure(failed);
        }
    }

    @Override
    public void receive(String scratch) {
        // staged in this very connection
    }

    @Override
    public void handOver(String query, String scratch) {
        keep(scratch, query);
    }

    @Override
    protected SqlType type(ResultSetMetaData data, int column) throws SQLException {
        return DuckDbTypes.of(data.getColumnTypeName(column));
    }

    @Override
    protected boolean readsModernTypes() {
        return false;
    }

    @Override
    protected WarehouseException failure(SQLException failed) {
        return new WarehouseException(DuckDbMessages.inShort(failed), failed);
    }
}
