package dev.zeitkammer.engine;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Comparator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The folder of this process for what does not fit into memory and what is handed over: open to nobody else, with a name that
 * nobody can guess, removed at the end. What a process left behind that was killed is removed by the next one of its user.
 */
public final class PrivateFolder {

    private static final String BEGINNING = "zeitkammer-";
    private static final Pattern NAME = Pattern.compile(Pattern.quote(BEGINNING) + "(\\d+)-\\w+");

    private static @Nullable Path folder;

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
            all.filter(Files::isDirectory).filter(PrivateFolder::hasEnded).forEach(left -> {
                if (isOf(user, left)) {
                    remove(left);
                }
            });
        } catch (IOException unreadable) {
            // what is left there does no harm
        }
    }

    private static boolean hasEnded(Path left) {
        Matcher name = NAME.matcher(left.getFileName().toString());
        return name.matches() && ProcessHandle.of(Long.parseLong(name.group(1))).isEmpty();
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
