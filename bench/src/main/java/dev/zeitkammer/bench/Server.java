package dev.zeitkammer.bench;

import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import org.postgresql.PGConnection;

/** A PostgreSQL server with the settings that it comes with, on loopback, for as long as the measurements take. */
final class Server implements AutoCloseable {

    static final String USER = "postgres";

    private final EmbeddedPostgres postgres;

    private Server(EmbeddedPostgres postgres) {
        this.postgres = postgres;
    }

    static Server start() throws IOException {
        return new Server(EmbeddedPostgres.builder()
                .setServerConfig("shared_buffers", "512MB")
                .setServerConfig("max_wal_size", "4GB")
                .start());
    }

    String url(String database) {
        return "jdbc:postgresql://127.0.0.1:" + postgres.getPort() + "/" + database;
    }

    /** Makes a database anew, from another. */
    void restore(String database, String from) throws SQLException {
        try (Connection connection = postgres.getPostgresDatabase().getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("drop database if exists " + database);
            statement.execute("create database " + database + " template " + from);
            statement.execute("checkpoint");
        }
    }

    String ask(String database, String query) throws SQLException {
        try (Connection connection = postgres.getDatabase(USER, database).getConnection()) {
            return Asking.ask(connection, query);
        }
    }

    void execute(String database, String statements) throws SQLException {
        try (Connection connection = postgres.getDatabase(USER, database).getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(statements);
        }
    }

    /** Puts the rows of a delimited file with a header into a table. */
    void copy(String database, String table, Path csv) throws IOException, SQLException {
        try (Connection connection = postgres.getDatabase(USER, database).getConnection();
                InputStream rows = Files.newInputStream(csv)) {
            connection
                    .unwrap(PGConnection.class)
                    .getCopyAPI()
                    .copyIn("copy " + table + " from stdin with (format csv, header true)", rows);
        }
    }

    @Override
    public void close() throws IOException {
        postgres.close();
    }
}
