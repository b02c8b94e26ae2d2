package dev.zeitkammer.bench;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.postgresql.PGConnection;

/** Runs a file of SQL against a database, as a process of its own: the hand-written contestants. */
public final class SqlScript {

    private static final Pattern NAME = Pattern.compile("\\$\\{(\\w+)}");
    private static final Pattern COPY = Pattern.compile("\\\\copy (\\S+) from '([^']+)' (.*)");

    private SqlScript() {}

    /** Arguments: the JDBC URL, the file, then {@code name=value} for each {@code ${name}} in it. */
    public static void main(String[] args) throws IOException, SQLException {
        Map<String, String> values = new HashMap<>();
        for (int index = 2; index < args.length; index++) {
            String[] parts = args[index].split("=", 2);
            values.put(parts[0], parts[1]);
        }
        List<String> statements = statements(Files.readString(Path.of(args[1])), values);
        try (Connection connection = DriverManager.getConnection(args[0])) {
            for (String statement : statements) {
                run(connection, statement);
            }
        }
    }

    /** The statements of a script: each ends with a semicolon at the end of a line. Lines of comment are left out. */
    static List<String> statements(String script, Map<String, String> values) {
        List<String> statements = new ArrayList<>();
        StringBuilder statement = new StringBuilder();
        for (String line : filled(script, values).lines().toList()) {
            if (line.isBlank() || line.startsWith("--")) {
                continue;
            }
            statement.append(line).append('\n');
            if (line.endsWith(";")) {
                String whole = statement.toString().strip();
                statements.add(whole.substring(0, whole.length() - 1));
                statement.setLength(0);
            }
        }
        if (!statement.isEmpty()) {
            throw new IllegalArgumentException("The last statement of the script has no semicolon: " + statement);
        }
        return statements;
    }

    private static String filled(String script, Map<String, String> values) {
        return NAME.matcher(script).replaceAll(found -> {
            String value = values.get(found.group(1));
            if (value == null) {
                throw new IllegalArgumentException("The script needs a value for ${" + found.group(1) + "}");
            }
            return Matcher.quoteReplacement(value);
        });
    }

    private static void run(Connection connection, String statement) throws SQLException, IOException {
        Matcher copy = COPY.matcher(statement);
        if (copy.matches()) {
            try (InputStream rows = Files.newInputStream(Path.of(copy.group(2)))) {
                connection
                        .unwrap(PGConnection.class)
                        .getCopyAPI()
                        .copyIn("copy " + copy.group(1) + " from stdin " + copy.group(3), rows);
            }
            return;
        }
        try (Statement running = connection.createStatement()) {
            if (running.execute(statement)) {
                print(running.getResultSet());
            }
        }
    }

    private static void print(ResultSet rows) throws SQLException {
        while (rows.next()) {
            StringBuilder line = new StringBuilder();
            for (int column = 1; column <= rows.getMetaData().getColumnCount(); column++) {
                line.append(column == 1 ? "" : "|").append(rows.getString(column));
            }
            System.out.println(line);
        }
    }
}
