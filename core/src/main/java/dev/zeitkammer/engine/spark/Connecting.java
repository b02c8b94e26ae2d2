package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.WarehouseException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Properties;
import org.apache.kyuubi.jdbc.KyuubiHiveDriver;

/** Connects to the JDBC endpoint of a cluster. */
final class Connecting {

    private Connecting() {}

    /**
     * A connection.
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
            return connection;
        } catch (SQLException refused) {
            throw SparkMessages.notOpened(address, refused);
        }
    }
}
