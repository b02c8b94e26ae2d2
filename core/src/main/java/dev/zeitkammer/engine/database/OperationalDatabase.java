package dev.zeitkammer.engine.database;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.WarehouseException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Properties;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A database that inputs read from. Every reading has a connection of its own, changes nothing and holds few rows at a time. */
public final class OperationalDatabase {

    private static final int ROWS_AT_ONCE = 10_000;

    private final DatabaseAddress address;
    private final Path folder;
    private @Nullable String quote;

    /** @param folder the project's folder, where further drivers are looked for */
    public OperationalDatabase(DatabaseAddress address, Path folder) {
        this.address = address;
        this.folder = folder;
    }

    public String name() {
        return address.name();
    }

    private interface Work<T> {
        T run(Connection connection) throws SQLException;
    }

    private <T> T connected(Work<T> work) {
        address.known();
        Properties properties = new Properties();
        if (address.user() != null) {
            properties.setProperty("user", address.user());
        }
        address.secret(folder).ifPresent(password -> properties.setProperty("password", password));
        try (Connection connection =
                Drivers.of(address.url(), address.shownUrl(), folder).connect(address.url(), properties)) {
            try {
                connection.setAutoCommit(false);
                connection.setReadOnly(true);
                if (address.schema() != null) {
                    connection.setSchema(address.schema());
                }
                return work.run(connection);
            } catch (SQLException failed) {
                throw new WarehouseException(firstLine(failed), failed);
            }
        } catch (SQLException refused) {
            throw new WarehouseException("cannot connect to " + address + ": " + firstLine(refused), refused);
        }
    }

    private static String firstLine(SQLException failed) {
        return String.valueOf(failed.getMessage()).lines().findFirst().orElse("");
    }

    /** An identifier, quoted as this database does. */
    public String quote(String identifier) {
        if (quote == null) {
            quote = connected(connection -> connection.getMetaData().getIdentifierQuoteString());
        }
        return quote + identifier.replace(quote, quote + quote) + quote;
    }

    /** A table, with its schema where it has one, quoted. */
    public String table(String name) {
        return Arrays.stream(name.split("\\.")).map(this::quote).collect(Collectors.joining("."));
    }

    /**
     * The columns of a table or of a query in parentheses, with their types; without one where values are best taken as texts
     * and looked into, since the database does not say how many digits they have.
     *
     * @throws WarehouseException when the database refuses, with its own words
     */
    public Map<String, Optional<SqlType>> columns(String relation) {
        return connected(connection -> {
            try (PreparedStatement statement =
                            connection.prepareStatement("select * from " + relation + " where 1 = 0");
                    ResultSet rows = statement.executeQuery()) {
                ResultSetMetaData data = rows.getMetaData();
                Map<String, Optional<SqlType>> columns = new LinkedHashMap<>();
                for (int column = 1; column <= data.getColumnCount(); column++) {
                    columns.put(data.getColumnLabel(column), JdbcTypes.of(data, column));
                }
                return columns;
            }
        });
    }

    /** The tables and views of its schema, in order of their names. */
    public List<String> tables() {
        return connected(connection -> {
            List<String> tables = new ArrayList<>();
            try (ResultSet rows = connection
                    .getMetaData()
                    .getTables(connection.getCatalog(), connection.getSchema(), "%", new String[] {
                        "TABLE", "PARTITIONED TABLE", "VIEW"
                    })) {
                while (rows.next()) {
                    tables.add(rows.getString("TABLE_NAME"));
                }
            }
            return tables;
        });
    }

    /**
     * Reads the rows of a query.
     *
     * @param values what is bound to its parameters
     * @param columns its columns and the types as which their values are read
     * @param sink takes the rows one by one, in order of the query
     */
    public void read(
            String sql, List<Object> values, List<Column> columns, Consumer<Iterable<List<@Nullable Object>>> sink) {
        connected(connection -> {
            try (PreparedStatement statement =
                    connection.prepareStatement(sql, ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY)) {
                statement.setFetchSize(ROWS_AT_ONCE);
                for (int index = 0; index < values.size(); index++) {
                    statement.setObject(index + 1, values.get(index));
                }
                try (ResultSet rows = statement.executeQuery()) {
                    JdbcRows reading = new JdbcRows(rows, columns);
                    sink.accept(() -> reading);
                }
            }
            return List.of();
        });
    }
}
