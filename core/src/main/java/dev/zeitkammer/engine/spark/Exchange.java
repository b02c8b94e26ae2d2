package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.WarehouseException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermission;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The folder that this machine and the cluster both see. Each session has one of its own in it, and removes it at its end. */
final class Exchange {

    private static final String OWN = "zeitkammer-";

    /** How long a session may last before its folder counts as left behind. */
    private static final Duration KEPT = Duration.ofDays(2);

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
                Files.createDirectories(shared);
                own = made(shared.resolve(OWN + UUID.randomUUID()));
            }
            return own.resolve(++files + "_" + name.replaceAll("\\W", ""));
        } catch (IOException failed) {
            throw refused(failed);
        }
    }

    /** A folder in it that is there. */
    Path made(String name) {
        try {
            return made(next(name));
        } catch (IOException failed) {
            throw refused(failed);
        }
    }

    /** A folder of it, as open to others as the one above it. */
    private static Path made(Path folder) throws IOException {
        Files.createDirectory(folder);
        return open(folder);
    }

    private static Path open(Path path) throws IOException {
        if (path.getFileSystem().supportedFileAttributeViews().contains("posix")) {
            Set<PosixFilePermission> open = EnumSet.copyOf(Files.getPosixFilePermissions(path.getParent()));
            open.addAll(Files.getPosixFilePermissions(path));
            Files.setPosixFilePermissions(path, open);
        }
        return path;
    }

    /** A file was written that the cluster must be able to read. */
    void written(Path file) {
        try {
            open(file);
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

    /** What cannot be removed, since the cluster wrote it as somebody else, is left to whoever keeps the folder. */
    private static void remove(Path folder, boolean itself) {
        try (Stream<Path> below = Files.walk(folder)) {
            List<Path> all = below.filter(each -> itself || !each.equals(folder))
                    .sorted(Comparator.reverseOrder())
                    .toList();
            for (Path each : all) {
                Files.deleteIfExists(each);
            }
        } catch (IOException | UncheckedIOException remains) {
            // it is of no use to anybody, and what was loaded stands
        }
    }

    /** Removes what sessions left that ended long ago. */
    void removeLeftBehind() {
        try (Stream<Path> sessions = Files.list(shared)) {
            for (Path each : sessions.toList()) {
                Instant changed = Files.getLastModifiedTime(each).toInstant();
                if (each.getFileName().toString().startsWith(OWN)
                        && changed.plus(KEPT).isBefore(Instant.now())) {
                    remove(each, true);
                }
            }
        } catch (IOException unreadable) {
            // the next step says what is wrong with the folder
        }
    }
}
