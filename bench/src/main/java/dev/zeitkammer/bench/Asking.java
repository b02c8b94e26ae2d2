package dev.zeitkammer.bench;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;

/** Asks a warehouse for one row. */
final class Asking {

    private Asking() {}

    static String ask(Path file, String query) throws SQLException {
        try (Connection connection = DriverManager.getConnection("jdbc:duckdb:" + file)) {
            return ask(connection, query);
        }
    }

    static String ask(Connection connection, String query) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(query)) {
            rows.next();
            StringBuilder values = new StringBuilder();
            for (int column = 1; column <= rows.getMetaData().getColumnCount(); column++) {
                values.append(column == 1 ? "" : " | ").append(rows.getString(column));
            }
            return values.toString();
        }
    }
}
