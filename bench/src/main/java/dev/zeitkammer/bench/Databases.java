package dev.zeitkammer.bench;

import java.io.IOException;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;

/** The servers that works need, each started for the first of them and stopped at the end. */
final class Databases implements AutoCloseable {

    private final Path home;
    private final Path folder;
    private @Nullable Server server;
    private @Nullable Cluster cluster;

    /**
     * @param home the checkout
     * @param folder where data go
     */
    Databases(Path home, Path folder) {
        this.home = home;
        this.folder = folder;
    }

    Server server() throws IOException {
        if (server == null) {
            server = Server.start();
        }
        return server;
    }

    Cluster cluster() throws Exception {
        if (cluster == null) {
            cluster = Cluster.start(home, folder);
        }
        return cluster;
    }

    @Override
    public void close() throws IOException {
        if (cluster != null) {
            cluster.close();
        }
        if (server != null) {
            server.close();
        }
    }
}
