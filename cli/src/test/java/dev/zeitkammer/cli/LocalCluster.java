package dev.zeitkammer.cli;

import java.io.File;
import java.io.IOException;
import java.net.ServerSocket;
import java.nio.file.Path;

/** The cluster of {@code cluster/cluster}, for few rows; it can be killed and started again over the same tables. */
final class LocalCluster implements AutoCloseable {

    private static final String FOR_FEW_ROWS =
            "-XX:TieredStopAtLevel=1 -XX:+UseSerialGC -Dspark.sql.codegen.wholeStage=false"
                    + " -Dspark.sql.codegen.factoryMode=NO_CODEGEN -Dspark.sql.adaptive.enabled=false"
                    + " -Dspark.sql.shuffle.partitions=1 -Dspark.default.parallelism=1";

    private final Path folder;
    private final int port;
    private Process process;

    /** Starts it; whoever connects must wait for it. */
    LocalCluster(Path folder) throws IOException {
        this.folder = folder;
        try (ServerSocket free = new ServerSocket(0)) {
            this.port = free.getLocalPort();
        }
        this.process = started();
    }

    /** Where it answers. */
    String url() {
        return "jdbc:hive2://127.0.0.1:%d/default".formatted(port);
    }

    /** A warehouse in it, for a project file. */
    String warehouse(String schema) {
        return "{url: \"%s\", catalog: dw, schema: %s, exchange: exchange}".formatted(url(), schema);
    }

    private Process started() throws IOException {
        ProcessBuilder builder = new ProcessBuilder(
                        Path.of("..", "cluster", "cluster").toString(), "run", folder.toString(), String.valueOf(port))
                .redirectErrorStream(true)
                .redirectOutput(new File(folder + ".log"));
        builder.environment().put("ZEITKAMMER_CLUSTER_OPTIONS", FOR_FEW_ROWS);
        return builder.start();
    }

    /** Kills it where it stands, and starts it again. */
    void fail() throws IOException {
        close();
        process = started();
    }

    @Override
    public void close() {
        process.destroyForcibly().onExit().join();
    }
}
