package dev.zeitkammer.engine;

import dev.zeitkammer.engine.Engine.Opening;
import dev.zeitkammer.engine.Engine.Staging;
import dev.zeitkammer.engine.Warehouse.Access;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.ServiceLoader;
import java.util.ServiceLoader.Provider;
import java.util.stream.Collectors;

/** Opens warehouses by their addresses. */
public final class Warehouses {

    private Warehouses() {}

    /**
     * Begins to make the embedded engine ready, while the caller does something else; every warehouse needs it.
     *
     * @return the thread that does it, which must have ended before the process does
     */
    public static Thread makeReady() {
        Thread loading = new Thread(() -> staging().makeReady(), "engine");
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
        return engine(address)
                .orElseThrow(() -> new WarehouseException(
                        "Cannot open the warehouse " + address.name() + ": there is no engine for "
                                + scheme(address.url()) + "; known are "
                                + engines().stream().map(Engine::url).collect(Collectors.joining(" and ")),
                        null))
                .open(
                        address,
                        new Opening(folder, access, memory, () -> staging().stager(memory)));
    }

    /** Whether a warehouse is a file within a folder, or in memory: opening it reaches nothing else. */
    public static boolean isWithin(DatabaseAddress address, Path folder) {
        return engine(address)
                .filter(engine -> engine.isWithin(address, folder))
                .isPresent();
    }

    /** An empty warehouse in memory, for commands that look at definitions only. */
    public static Warehouse inMemory(Path folder, Optional<String> memory) {
        String url = engines().get(0).url();
        return open(new DatabaseAddress("memory", url, null, null, null, null), folder, Access.PLAN, memory);
    }

    private static Optional<Engine> engine(DatabaseAddress address) {
        return engines().stream()
                .filter(engine -> address.url().startsWith(engine.url()))
                .findFirst();
    }

    /** The engines that are registered, the embedded one first. */
    private static List<Engine> engines() {
        return ServiceLoader.load(Engine.class, Warehouses.class.getClassLoader()).stream()
                .map(Provider::get)
                .toList();
    }

    private static Staging staging() {
        return engines().stream()
                .flatMap(engine -> engine.staging().stream())
                .findFirst()
                .orElseThrow();
    }

    private static String scheme(String url) {
        String[] parts = url.split(":", 3);
        return parts.length > 1 ? parts[0] + ":" + parts[1] + ":" : "this URL";
    }
}
