package dev.zeitkammer.bench;

import java.net.ServerSocket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;

/** The cluster of {@code cluster/cluster} on loopback, for as long as the measurements take. */
final class Cluster implements AutoCloseable {

    static final String CATALOG = "dw";

    /** What a table holds that a work begins with. */
    private static final String BASE = "base";

    private static final int SECONDS_TO_START = 300;

    private final Process process;
    private final int port;

    private Cluster(Process process, int port) {
        this.process = process;
        this.port = port;
    }

    static Cluster start(Path home, Path folder) throws Exception {
        int port;
        try (ServerSocket free = new ServerSocket(0)) {
            port = free.getLocalPort();
        }
        Path tables = Files.createDirectories(folder).resolve("cluster-" + port);
        Cluster cluster = new Cluster(
                new ProcessBuilder(
                                "bash",
                                home.resolve("cluster/cluster").toString(),
                                "run",
                                tables.toString(),
                                String.valueOf(port))
                        .redirectErrorStream(true)
                        .redirectOutput(folder.resolve("cluster.log").toFile())
                        .start(),
                port);
        cluster.awaitAnswer();
        return cluster;
    }

    private void awaitAnswer() throws Exception {
        for (int second = 0; second < SECONDS_TO_START && process.isAlive(); second++) {
            try {
                execute("create namespace if not exists " + CATALOG + ".begun");
                return;
            } catch (SQLException notYet) {
                TimeUnit.SECONDS.sleep(1);
            }
        }
        close();
        throw new IllegalStateException("The cluster does not answer; see cluster.log in the folder of the data");
    }

    String url() {
        return "jdbc:hive2://127.0.0.1:" + port + "/default";
    }

    private Connection connect() throws SQLException {
        Connection connection = DriverManager.getConnection(url(), "bench", "");
        try (Statement statement = connection.createStatement()) {
            statement.execute("use " + CATALOG);
        }
        return connection;
    }

    private void execute(String sql) throws SQLException {
        try (Connection connection = connect();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    String ask(String query) throws SQLException {
        try (Connection connection = connect()) {
            return Asking.ask(connection, query);
        }
    }

    /** Drops a schema and its books. */
    void drop(String schema) throws SQLException {
        for (String name : List.of(schema, books(schema))) {
            for (String table : tables(name)) {
                execute("drop table " + table + " purge");
            }
        }
    }

    /** The tables of a schema and of its books will be restored to what they hold now. */
    void keep(String schema) throws SQLException {
        for (String name : List.of(schema, books(schema))) {
            for (String table : tables(name)) {
                execute("insert into " + table + " select * from " + table + " where false");
                execute("alter table " + table + " create tag " + BASE);
            }
        }
    }

    /** Every table holds again what it held when it was kept; those made since are dropped. */
    void restore(String schema) throws SQLException {
        for (String name : List.of(schema, books(schema))) {
            for (String table : tables(name)) {
                if (ask("select count(*) from " + table + ".refs where name = '" + BASE + "'")
                        .equals("1")) {
                    execute("call " + CATALOG + ".system.set_current_snapshot(table => '" + table + "', ref => '" + BASE
                            + "')");
                } else {
                    execute("drop table " + table + " purge");
                }
            }
        }
    }

    private static String books(String schema) {
        return "zeitkammer_" + schema;
    }

    private List<String> tables(String schema) throws SQLException {
        List<String> tables = new ArrayList<>();
        try (Connection connection = connect();
                Statement statement = connection.createStatement()) {
            try (ResultSet found = statement.executeQuery("show namespaces like '" + schema + "'")) {
                if (!found.next()) {
                    return tables;
                }
            }
            try (ResultSet found = statement.executeQuery("show tables in " + schema)) {
                while (found.next()) {
                    tables.add(schema + "." + found.getString(2));
                }
            }
        }
        return tables;
    }

    @Override
    public void close() {
        process.descendants().forEach(ProcessHandle::destroyForcibly);
        process.destroyForcibly().onExit().join();
    }
}
