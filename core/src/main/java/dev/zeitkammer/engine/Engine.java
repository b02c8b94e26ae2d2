package dev.zeitkammer.engine;

import dev.zeitkammer.engine.Warehouse.Access;
import java.nio.file.Path;
import java.util.Optional;
import java.util.function.Supplier;

/** An engine that warehouses stand in. Engines are found by {@link java.util.ServiceLoader}: a new one is a package and a line. */
public interface Engine {

    /** How the URLs of its addresses begin. */
    String url();

    /**
     * Opens the warehouse at an address.
     *
     * @throws WarehouseException when it cannot be opened, saying why and what to do
     */
    Warehouse open(DatabaseAddress address, Opening opening);

    /** Whether the database at an address is a file within a folder, or in memory: opening it reaches nothing else. */
    default boolean isWithin(DatabaseAddress address, Path folder) {
        return false;
    }

    /** What reads staged files for other engines; empty for one that does not. */
    default Optional<Staging> staging() {
        return Optional.empty();
    }

    /** An engine that can stage rows without a warehouse. */
    interface Staging {

        /** Loads what takes long, while the caller does something else. */
        void makeReady();

        /** @param memory the most that it may use, such as 2GB */
        Stager stager(Optional<String> memory);
    }

    /**
     * How a warehouse is opened.
     *
     * @param folder the project's folder, which relative files are relative to
     * @param memory the most that the embedded engine may use, such as 2GB
     * @param stagers opens what reads staged files, when it is needed
     */
    record Opening(Path folder, Access access, Optional<String> memory, Supplier<Stager> stagers) {}
}
