package dev.zeitkammer.engine;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Comparator;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The folder of this process for what does not fit into memory and what is handed over: open to nobody else, with a name that
 * nobody can guess, removed at the end. What a process left behind that was killed is removed by the next one of its user: a lock
 * that the living hold on a file in their folder says who lives, since the number of a process says nothing beyond those that are
 * numbered together.
 */
public final class PrivateFolder {

    private static final String BEGINNING = "zeitkammer-";
    private static final Pattern NAME = Pattern.compile(Pattern.quote(BEGINNING) + "(\\d+)-\\w+");

    private static final String LOCK = "in-use";

    private static @Nullable Path folder;
    private static @Nullable FileLock held;

    private PrivateFolder() {}

    /** The folder, made when it is first asked for. */
    public static synchronized Path path() {
        if (folder == null) {
            removeLeftBehind(Path.of(System.getProperty("java.io.tmpdir")));
            try {
                Path made = Files.createTempDirectory(
                                BEGINNING + ProcessHandle.current().pid() + "-")
                        .toRealPath();
                Runtime.getRuntime().addShutdownHook(new Thread(() -> remove(made)));
                held = hold(made);
                folder = made;
            } catch (IOException refused) {
                throw new WarehouseException(
                        "Cannot make a folder in " + System.getProperty("java.io.tmpdir") + ": " + refused.getMessage(),
                        refused);
            }
        }
        return folder;
    }

    /** A new file in the folder, for its owner only. */
    public static Path file(String ending) throws IOException {
        return Files.createTempFile(path(), "rows", ending);
    }

    /** Makes a file that was just made its owner's only, unless the umask says something else than the usual one. */
    public static void guard(Path file) {
        try {
            if (PosixFilePermissions.toString(Files.getPosixFilePermissions(file))
                    .equals("rw-r--r--")) {
                Files.setPosixFilePermissions(file, PosixFilePermissions.fromString("rw-------"));
            }
        } catch (UnsupportedOperationException otherSystem) {
            // its folder decides there
        } catch (IOException refused) {
            throw new WarehouseException("Cannot keep " + file + " from others: " + refused.getMessage(), refused);
        }
    }

    /** Removes the folders of processes of this user that have ended. */
    static void removeLeftBehind(Path below) {
        try (Stream<Path> all = Files.list(below)) {
            String user = System.getProperty("user.name");
            all.filter(Files::isDirectory)
                    .filter(left -> !left.equals(folder))
                    .filter(PrivateFolder::hasEnded)
                    .forEach(left -> {
                        if (isOf(user, left)) {
                            remove(left);
                        }
                    });
        } catch (IOException unreadable) {
            // what is left there does no harm
        }
    }

    /** A lock that lasts as long as this process; where the system has none, nobody can tell that it has ended. */
    private static @Nullable FileLock hold(Path made) throws IOException {
        FileChannel file =
                FileChannel.open(made.resolve(LOCK), StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE);
        return file.tryLock();
    }

    /** Whether a folder is one of this program, and nobody holds its lock any more. */
    private static boolean hasEnded(Path left) {
        Path lock = left.resolve(LOCK);
        if (!NAME.matcher(left.getFileName().toString()).matches() || !Files.isRegularFile(lock)) {
            return false;
        }
        try (FileChannel file = FileChannel.open(lock, StandardOpenOption.WRITE);
                FileLock free = file.tryLock()) {
            return free != null;
        } catch (IOException | OverlappingFileLockException inUse) {
            return false;
        }
    }

    private static boolean isOf(String user, Path left) {
        try {
            return Files.getOwner(left).getName().equals(user);
        } catch (IOException gone) {
            return false;
        }
    }

    private static void remove(Path left) {
        try (Stream<Path> all = Files.walk(left)) {
            for (Path each : all.sorted(Comparator.reverseOrder()).toList()) {
                Files.deleteIfExists(each);
            }
        } catch (IOException remains) {
            // somebody else removes it, or it is empty
        }
    }
}
