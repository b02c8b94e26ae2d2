package dev.zeitkammer.load;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.DatabaseAddress.Cluster;
import dev.zeitkammer.engine.Warehouse;
import java.io.File;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.ServerSocket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Comparator;
import java.util.List;
import java.util.Properties;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import org.apache.kyuubi.jdbc.KyuubiHiveDriver;
import org.jspecify.annotations.Nullable;

/** A cluster of one machine, started when a test first needs one and stopped with the tests: {@code cluster/cluster run}. */
public final class TestCluster {

    private static final AtomicInteger NUMBER = new AtomicInteger();
    /** Of few rows, compiling a query takes longer than running it. */
    private static final String FOR_FEW_ROWS =
            "-XX:TieredStopAtLevel=1 -XX:+UseSerialGC -Dspark.sql.codegen.wholeStage=false"
                    + " -Dspark.sql.codegen.factoryMode=NO_CODEGEN -Dspark.sql.adaptive.enabled=false"
                    + " -Dspark.sql.shuffle.partitions=1 -Dspark.default.parallelism=1";

    private static final int SECONDS_TO_START = 300;
    private static final int TRIES = 3;
    private static @Nullable TestCluster running;

    private final Path folder;
    private final int port;
    private final Process process;

    private TestCluster(Path folder, int port, Process process) {
        this.folder = folder;
        this.port = port;
        this.process = process;
    }

    /** A new, empty schema. */
    public static DatabaseAddress newSchema() {
        return schema("star_" + NUMBER.incrementAndGet());
    }

    /** A schema of the cluster. */
    public static synchronized DatabaseAddress schema(String name) {
        for (int more = TRIES; running == null; more--) {
            running = started(more > 1);
        }
        return new DatabaseAddress(
                "lake",
                "jdbc:hive2://127.0.0.1:" + running.port + "/default",
                "tester",
                null,
                null,
                name,
                new Cluster("dw", running.exchange(name).toString()),
                false);
    }

    /** How the rows of a table lie, in the words of the cluster. */
    public static String layout(Warehouse warehouse, String table) {
        return String.join(
                "\n", warehouse.query("describe table extended " + table, row -> row.text(1) + " " + row.text(2)));
    }

    private Path exchange(String schema) {
        try {
            return Files.createDirectories(folder.resolve("exchange").resolve(schema));
        } catch (IOException refused) {
            throw new UncheckedIOException(refused);
        }
    }

    /** The files that sessions left in the exchange of a schema. */
    public static List<String> leftInExchange(DatabaseAddress address) {
        try (Stream<Path> files = Files.list(running.exchange(address.schema()))) {
            return files.map(Path::toString).toList();
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }

    /** Now and then one does not come up where a machine has much else to do; it is stopped then. */
    private static @Nullable TestCluster started(boolean mayBeTriedAgain) {
        TestCluster cluster = start();
        try {
            cluster.awaitAnswer();
            return cluster;
        } catch (IOException | IllegalStateException silent) {
            cluster.stop();
            if (!mayBeTriedAgain) {
                throw new IllegalStateException(silent);
            }
            return null;
        }
    }

    private static TestCluster start() {
        try {
            Path folder = Files.createTempDirectory("zeitkammer-cluster");
            int port;
            try (ServerSocket free = new ServerSocket(0)) {
                port = free.getLocalPort();
            }
            File log = folder.resolve("log").toFile();
            ProcessBuilder builder = new ProcessBuilder(
                            Path.of("..", "cluster", "cluster").toString(),
                            "run",
                            folder.toString(),
                            String.valueOf(port))
                    .redirectErrorStream(true)
                    .redirectOutput(log);
            builder.environment().put("ZEITKAMMER_CLUSTER_OPTIONS", FOR_FEW_ROWS);
            Process process = builder.start();
            TestCluster cluster = new TestCluster(folder, port, process);
            Runtime.getRuntime().addShutdownHook(new Thread(cluster::stop));
            return cluster;
        } catch (IOException refused) {
            throw new UncheckedIOException(refused);
        }
    }

    private void awaitAnswer() throws IOException {
        for (int second = 0; second < SECONDS_TO_START; second++) {
            try (Connection connection = new KyuubiHiveDriver()
                            .connect("jdbc:hive2://127.0.0.1:" + port + "/default", new Properties());
                    Statement statement = connection.createStatement()) {
                statement.execute(
                        "create namespace if not exists dw.begun"); // the catalog makes its own tables for the first
                // who comes
                return;
            } catch (SQLException notYet) {
                pause();
            }
            if (!process.isAlive()) {
                break;
            }
        }
        throw new IllegalStateException("The cluster does not start: " + Files.readString(folder.resolve("log")));
    }

    private static void pause() {
        try {
            TimeUnit.SECONDS.sleep(1);
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
        }
    }

    private void stop() {
        process.destroyForcibly();
        try {
            process.waitFor(10, TimeUnit.SECONDS);
            try (Stream<Path> below = Files.walk(folder)) {
                for (Path each : below.sorted(Comparator.reverseOrder()).toList()) {
                    Files.deleteIfExists(each);
                }
            }
        } catch (IOException | InterruptedException left) {
            // a temporary folder remains
        }
    }
}
