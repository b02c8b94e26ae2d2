package dev.zeitkammer.engine;

import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.duckdb.DuckDbWarehouse;
import dev.zeitkammer.engine.postgres.PostgresWarehouse;
import java.nio.file.Path;
import java.util.Optional;

/** Opens warehouses by their addresses. */
public final class Warehouses {

    private Warehouses() {}

    /**
     * Begins to make the embedded engine ready, while the caller does something else; every warehouse needs it.
     *
     * @return the thread that does it, which must have ended before the process does
     */
    public static Thread makeReady() {
        Thread loading = new Thread(DuckDbWarehouse::makeReady, "engine");
        loading.setDaemon(true);
        loading.start();
        return loading;
    }

    /**
     * Opens the warehouse at an address.
     *
     * @param folder the project's folder, which relative files are relative to
     * @throws WarehouseException when it cannot be opened, saying why and what to do
     */
    public static Warehouse open(DatabaseAddress address, Path folder, Access access) {
        return open(address, folder, access, Optional.empty());
    }

    /**
     * Opens the warehouse at an address.
     *
     * @param memory the most that the embedded engine may use, such as 2GB; what does not fit goes to a folder beside the
     *     warehouse while a load runs
     */
    public static Warehouse open(DatabaseAddress address, Path folder, Access access, Optional<String> memory) {
        address.known();
        if (address.url().startsWith(DuckDbWarehouse.URL)) {
            return DuckDbWarehouse.open(address, folder, access, memory);
        }
        if (address.url().startsWith(PostgresWarehouse.URL)) {
            return PostgresWarehouse.open(address, folder, access, () -> DuckDbWarehouse.inMemory(memory));
        }
        throw new WarehouseException(
                "Cannot open the warehouse " + address.name() + ": there is no engine for " + scheme(address.url())
                        + "; known are " + DuckDbWarehouse.URL + " and " + PostgresWarehouse.URL,
                null);
    }

    private static String scheme(String url) {
        String[] parts = url.split(":", 3);
        return parts.length > 1 ? parts[0] + ":" + parts[1] + ":" : "this URL";
    }
}
