package dev.zeitkammer.engine;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;

/** Whether files are in a folder, links followed: a path within it may lead out. */
public final class OwnFolder {

    private OwnFolder() {}

    /**
     * Whether a file or folder, which may be one that is made yet, lies in another folder or is it.
     *
     * @param path absolute, or relative to the folder
     */
    public static boolean holds(Path folder, Path path) {
        Path whole = folder.resolve(path).toAbsolutePath().normalize();
        return whole.startsWith(folder.toAbsolutePath().normalize())
                && standing(whole).startsWith(standing(folder));
    }

    /** Where the nearest part of a path that is there really is; a link that leads nowhere is in nobody's folder. */
    private static Path standing(Path path) {
        Path nearest = path.toAbsolutePath().normalize();
        while (nearest.getParent() != null && !Files.exists(nearest, LinkOption.NOFOLLOW_LINKS)) {
            nearest = nearest.getParent();
        }
        try {
            return nearest.toRealPath();
        } catch (IOException leadsNowhere) {
            return Path.of("").toAbsolutePath().getRoot();
        }
    }
}
