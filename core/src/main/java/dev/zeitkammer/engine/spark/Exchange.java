package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.WarehouseException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.List;
import java.util.UUID;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The folder that this machine and the cluster both see. Each session has one of its own in it, and removes it at its end. */
final class Exchange {

    private static final String OWN = "zeitkammer-";

    private final Path shared;
    private @Nullable Path own;
    private int files;

    Exchange(Path shared) {
        this.shared = shared;
    }

    Path shared() {
        return shared;
    }

    /** A path in it at which nothing stands yet. */
    Path next(String name) {
        try {
            if (own == null) {
                own = Files.createDirectories(shared.resolve(OWN + UUID.randomUUID()));
            }
            return own.resolve(++files + "_" + name.replaceAll("\\W", ""));
        } catch (IOException failed) {
            throw refused(failed);
        }
    }

    /** A folder in it that is there. */
    Path made(String name) {
        try {
            return Files.createDirectories(next(name));
        } catch (IOException failed) {
            throw refused(failed);
        }
    }

    private WarehouseException refused(IOException failed) {
        return new WarehouseException(
                "Cannot write to " + shared + ", the exchange of the warehouse: " + failed.getMessage()
                        + "; it must be a folder that this machine and the cluster both see and may write to",
                failed);
    }

    /** How the cluster calls a path of this machine. */
    static String seen(Path path) {
        return "file://" + path.toUri().getPath();
    }

    /** Removes what is in the folder of this session. */
    void clear() {
        if (own != null) {
            remove(own, false);
        }
    }

    void remove() {
        if (own != null) {
            remove(own, true);
        }
    }

    private static void remove(Path folder, boolean itself) {
        try (Stream<Path> below = Files.walk(folder)) {
            List<Path> all = below.filter(each -> itself || !each.equals(folder))
                    .sorted(Comparator.reverseOrder())
                    .toList();
            for (Path each : all) {
                Files.deleteIfExists(each);
            }
        } catch (IOException | UncheckedIOException remains) {
            throw new WarehouseException("Cannot remove " + folder + ": " + remains.getMessage(), remains);
        }
    }
}
