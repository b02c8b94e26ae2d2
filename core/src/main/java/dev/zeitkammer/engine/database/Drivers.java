package dev.zeitkammer.engine.database;

import dev.zeitkammer.engine.WarehouseException;
import java.io.IOException;
import java.net.MalformedURLException;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Driver;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.ServiceLoader;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;

/** Finds the driver for a URL: those that ship with the program, and those in the project's folder of drivers. */
public final class Drivers {

    /** The folder for drivers, in the project. */
    public static final String FOLDER = "drivers";

    private static final Map<String, String> SHIPPED =
            Map.of("jdbc:postgresql:", "org.postgresql.Driver", "jdbc:mariadb:", "org.mariadb.jdbc.Driver");

    /** The variable of the environment that names a folder of drivers. */
    public static final String VARIABLE = "ZEITKAMMER_DRIVERS";

    private static final Set<Path> TRUSTED = ConcurrentHashMap.newKeySet();

    private Drivers() {}

    /** Lets the drivers of a folder run: a driver is a program, and whoever uses it must have said so. */
    public static void trust(Path folder) {
        TRUSTED.add(folder);
    }

    /**
     * The driver for a URL.
     *
     * @throws WarehouseException when there is none, saying where to put it
     */
    public static Driver of(String url, String shownUrl, Path project) {
        try {
            for (Map.Entry<String, String> shipped : SHIPPED.entrySet()) {
                if (url.startsWith(shipped.getKey())) {
                    return (Driver) Class.forName(shipped.getValue())
                            .getDeclaredConstructor()
                            .newInstance();
                }
            }
            for (Path folder : TRUSTED) {
                for (Driver driver : inFolder(folder)) {
                    if (driver.acceptsURL(url)) {
                        return driver;
                    }
                }
            }
        } catch (ReflectiveOperationException | SQLException failed) {
            throw new WarehouseException("Cannot use the driver for " + shownUrl + ": " + failed.getMessage(), failed);
        }
        throw new WarehouseException(
                "There is no driver for " + shownUrl + "; put its jar into a folder that " + VARIABLE
                        + " names, or into " + project.resolve(FOLDER)
                        + " and say --with-drivers: a driver is a program",
                null);
    }

    private static List<Driver> inFolder(Path folder) {
        if (!Files.isDirectory(folder)) {
            return List.of();
        }
        try (Stream<Path> files = Files.list(folder)) {
            List<URL> jars = new ArrayList<>();
            for (Path jar : files.filter(file -> file.toString().endsWith(".jar"))
                    .sorted()
                    .toList()) {
                jars.add(jar.toUri().toURL());
            }
            // the loader stays open: the driver loads its classes as it needs them
            URLClassLoader loader = new URLClassLoader(jars.toArray(URL[]::new), Drivers.class.getClassLoader());
            List<Driver> drivers = new ArrayList<>();
            ServiceLoader.load(Driver.class, loader).forEach(drivers::add);
            return drivers;
        } catch (MalformedURLException impossible) {
            throw new IllegalStateException(impossible);
        } catch (IOException unreadable) {
            throw new WarehouseException("Cannot read " + folder + ": " + unreadable.getMessage(), unreadable);
        }
    }
}
