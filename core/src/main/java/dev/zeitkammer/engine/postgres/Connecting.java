package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.WarehouseException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Properties;
import org.postgresql.Driver;

/** Connects to a server. Whatever the URL says itself (TLS modes, time limits) is left to it. */
final class Connecting {

    private static final String SECONDS_TO_CONNECT = "20";

    private Connecting() {}

    /**
     * A connection.
     *
     * @throws WarehouseException when the server does not answer, does not let the user in, or has no such database
     */
    static Connection to(DatabaseAddress address, Path folder) {
        Properties properties = new Properties();
        properties.setProperty("ApplicationName", "zeitkammer");
        properties.setProperty("tcpKeepAlive", "true");
        properties.setProperty("connectTimeout", SECONDS_TO_CONNECT);
        if (address.user() != null) {
            properties.setProperty("user", address.user());
        }
        address.secret(folder).ifPresent(password -> properties.setProperty("password", password));
        try {
            Connection connection = new Driver().connect(address.url(), properties);
            if (connection == null) {
                throw new WarehouseException(
                        "Cannot open the warehouse " + address + ": this is no URL of a server", null);
            }
            return connection;
        } catch (SQLException refused) {
            throw PostgresMessages.notOpened(address, refused);
        }
    }
}
