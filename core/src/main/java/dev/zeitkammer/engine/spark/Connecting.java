package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.WarehouseException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Properties;
import org.apache.kyuubi.jdbc.KyuubiHiveDriver;

/** Connects to the JDBC endpoint of a cluster. */
final class Connecting {

    /** Standard SQL: what cannot be computed fails, double quotes are names, timestamps have no time zone, and texts and dates are as they are. */
    private static final List<String> SETTINGS = List.of(
            "set spark.sql.ansi.enabled=true",
            "set spark.sql.ansi.doubleQuotedIdentifiers=true",
            "set spark.sql.timestampType=TIMESTAMP_NTZ",
            "set spark.sql.session.timeZone=UTC",
            "set spark.sql.variable.substitute=false",
            "set spark.sql.parquet.datetimeRebaseModeInRead=CORRECTED",
            "set spark.sql.parquet.datetimeRebaseModeInWrite=CORRECTED");

    private Connecting() {}

    /**
     * A connection, with the settings that all statements rely on.
     *
     * @throws WarehouseException when no cluster answers, or it does not let the user in
     */
    static Connection to(DatabaseAddress address, Path folder) {
        Properties properties = new Properties();
        properties.setProperty("user", address.user() == null ? System.getProperty("user.name") : address.user());
        address.secret(folder).ifPresent(password -> properties.setProperty("password", password));
        try {
            Connection connection = new KyuubiHiveDriver().connect(address.url(), properties);
            if (connection == null) {
                throw new WarehouseException(
                        "Cannot open the warehouse " + address + ": this is no URL of a cluster", null);
            }
            set(connection);
            return connection;
        } catch (SQLException refused) {
            throw SparkMessages.notOpened(address, refused);
        }
    }

    private static void set(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            for (String setting : SETTINGS) {
                statement.execute(setting);
            }
        } catch (SQLException refused) {
            connection.close();
            throw refused;
        }
    }
}
