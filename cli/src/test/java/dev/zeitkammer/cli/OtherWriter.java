package dev.zeitkammer.cli;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * Somebody else at work on the same cluster: writes numbers into a table of its own in the same schema, one by one, and compacts
 * a table of the program when it is told to.
 */
final class OtherWriter implements AutoCloseable {

    private static final long PAUSE = 500;

    private final String url;
    private final String schema;
    private final ConcurrentLinkedQueue<Long> written = new ConcurrentLinkedQueue<>();
    private final AtomicBoolean ends = new AtomicBoolean();
    private final AtomicBoolean compacts = new AtomicBoolean();
    private final AtomicInteger compactions = new AtomicInteger();
    private final Thread work = new Thread(this::work, "other writer");

    /** @param schema where the program's tables stand */
    OtherWriter(LocalCluster cluster, String schema) {
        this.url = cluster.url();
        this.schema = schema;
        work.setDaemon(true);
    }

    void start() {
        work.start();
    }

    /** From now on it compacts the program's dimension once. */
    void compactsOnce() {
        compacts.set(true);
    }

    /** How often it has. */
    int compactions() {
        return compactions.get();
    }

    private void work() {
        long number = 0;
        while (!ends.get()) {
            try (Connection connection = DriverManager.getConnection(url);
                    Statement statement = connection.createStatement()) {
                statement.execute("create table if not exists dw." + schema + ".others (number bigint) using iceberg");
                while (!ends.get()) {
                    number++;
                    statement.execute("insert into dw." + schema + ".others values (" + number + ")");
                    written.add(number);
                    if (compacts.get()) {
                        statement.execute("call dw.system.rewrite_data_files(table => '" + schema
                                + ".dim_hut', options => map('rewrite-all', 'true'))");
                        compacts.set(false);
                        compactions.incrementAndGet();
                    }
                    Thread.sleep(PAUSE);
                }
            } catch (SQLException failed) {
                pause(); // the cluster was killed, or the load wrote what was to be compacted: it tries again
            } catch (InterruptedException told) {
                return;
            }
        }
    }

    private static void pause() {
        try {
            Thread.sleep(PAUSE);
        } catch (InterruptedException told) {
            Thread.currentThread().interrupt();
        }
    }

    /** Ends, and tells what it was told to be written, each number once. */
    List<Long> ended() throws InterruptedException {
        ends.set(true);
        work.join();
        return List.copyOf(written);
    }

    /** What stands in its table. */
    List<Long> standing() throws SQLException {
        List<Long> numbers = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(url);
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("select number from dw." + schema + ".others order by 1")) {
            while (rows.next()) {
                numbers.add(rows.getLong(1));
            }
        }
        return numbers;
    }

    @Override
    public void close() {
        ends.set(true);
        work.interrupt();
    }
}
