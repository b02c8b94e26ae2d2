package dev.zeitkammer.load;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouses;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;

/**
 * Empty warehouses for tests, on the engine under test: the embedded one, with {@code -Dengine=server} a PostgreSQL server, or with
 * {@code -Dengine=cluster} a cluster; they are started here and end with the tests.
 */
public final class TestWarehouses {

    private static final AtomicInteger NUMBER = new AtomicInteger();
    private static @Nullable EmbeddedPostgres server;

    private TestWarehouses() {}

    /** Whether the engine under test is the server. */
    public static boolean onServer() {
        return System.getProperty("engine", "embedded").equals("server");
    }

    /** Whether the engine under test is the cluster. */
    public static boolean onCluster() {
        return System.getProperty("engine", "embedded").equals("cluster");
    }

    /** Whether the engine under test is the embedded one. */
    public static boolean isEmbedded() {
        return !onServer() && !onCluster();
    }

    /** A new, empty warehouse. */
    public static Warehouse open(Path folder) {
        Warehouse warehouse = Warehouses.open(address(), folder, Access.WRITE);
        warehouse.stager().execute("set threads = 1");
        return warehouse;
    }

    private static DatabaseAddress address() {
        if (onCluster()) {
            return TestCluster.newSchema();
        }
        return onServer()
                ? onServer(newDatabase(), null)
                : new DatabaseAddress("memory", "jdbc:duckdb:", null, null, null, null);
    }

    /** The address of a database of the server. */
    public static DatabaseAddress onServer(String database, @Nullable String schema) {
        return new DatabaseAddress(
                "server",
                "jdbc:postgresql://127.0.0.1:" + server().getPort() + "/" + database,
                "postgres",
                null,
                null,
                schema);
    }

    /** A new, empty database of the server. */
    public static String newDatabase() {
        String name = "star_" + NUMBER.incrementAndGet();
        try (Connection connection = server().getPostgresDatabase().getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("create database " + name);
            return name;
        } catch (SQLException refused) {
            throw new IllegalStateException(refused);
        }
    }

    /** The same warehouse as one that rather makes twice than keeps. */
    static Warehouse tight(Warehouse warehouse) {
        return (Warehouse) Proxy.newProxyInstance(
                Warehouse.class.getClassLoader(), new Class<?>[] {Warehouse.class}, (proxy, method, arguments) -> {
                    if (method.getName().equals("keepsCheaply")) {
                        return false;
                    }
                    try {
                        return method.invoke(warehouse, arguments);
                    } catch (InvocationTargetException failed) {
                        throw failed.getCause();
                    }
                });
    }

    /** The server, started when it is first needed. */
    public static synchronized EmbeddedPostgres server() {
        if (server == null) {
            try {
                server = EmbeddedPostgres.builder()
                        .setServerConfig("fsync", "off")
                        .setServerConfig("synchronous_commit", "off")
                        .setServerConfig("full_page_writes", "off")
                        .start();
            } catch (IOException notStarted) {
                throw new UncheckedIOException(notStarted);
            }
            Runtime.getRuntime().addShutdownHook(new Thread(TestWarehouses::stop));
        }
        return server;
    }

    private static void stop() {
        try {
            if (server != null) {
                server.close();
            }
        } catch (IOException alreadyGone) {
            throw new UncheckedIOException(alreadyGone);
        }
    }
}
