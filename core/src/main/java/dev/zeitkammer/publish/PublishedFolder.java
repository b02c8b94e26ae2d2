package dev.zeitkammer.publish;

import com.fasterxml.jackson.annotation.JsonProperty;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.publish.Manifest.WrittenFile;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.nio.file.DirectoryNotEmptyException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.PosixFilePermission;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Stream;

/**
 * A folder that a table is published to. Others may keep files there too: only what this program has noted, in a file of its own
 * beside the manifest, that it wrote is ever removed or opened to readers.
 */
final class PublishedFolder {

    /** What the program notes of what it wrote: it is no part of what readers go by. */
    static final String NOTES = ".published.json";

    private static final String WRITING = ".writing-";

    private static final ObjectMapper JSON = new ObjectMapper()
            .enable(SerializationFeature.INDENT_OUTPUT)
            .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES);

    private final Path folder;
    private final Path project;

    /** @param project the folder whose permissions published files get, since they are meant for the same readers */
    PublishedFolder(Path folder, Path project) {
        this.folder = folder;
        this.project = project;
    }

    /**
     * What was written.
     *
     * @param writing the folders in which files are being written, or stand that no manifest names yet
     * @param replaced folders that readers may still be at
     */
    record Notes(
            @JsonProperty("writing") List<String> writing,
            @JsonProperty("replaced") List<Replaced> replaced) {}

    /**
     * Files of an earlier load.
     *
     * @param since when other ones took their place, in UTC
     * @param files their paths below the folder of the manifest
     */
    record Replaced(
            @JsonProperty("folder") String folder,
            @JsonProperty("since") String since,
            @JsonProperty("files") List<String> files) {}

    private Notes notes() {
        Path file = folder.resolve(NOTES);
        if (!Files.isRegularFile(file)) {
            return new Notes(List.of(), List.of());
        }
        try {
            return JSON.readValue(file.toFile(), Notes.class);
        } catch (IOException unreadable) {
            throw new ZeitkammerException(
                    "Cannot read " + file + ", which says what was published there: " + unreadable.getMessage(),
                    unreadable);
        }
    }

    private void note(Notes notes) throws IOException {
        Path beside = folder.resolve(NOTES + ".writing");
        try {
            Files.writeString(beside, JSON.writeValueAsString(notes) + "\n");
        } catch (JsonProcessingException impossible) {
            throw new UncheckedIOException(impossible);
        }
        Files.move(beside, folder.resolve(NOTES), StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    /** Makes the folder, and one in it to write to; what a publishing left that was cut off goes, unless the manifest names it. */
    Path begin(Optional<Manifest> stands) throws IOException {
        make();
        Notes notes = notes();
        for (String left : notes.writing()) {
            boolean isRead =
                    stands.filter(manifest -> manifest.folder().equals(left)).isPresent();
            if (!isRead && isOfThisFolder(left)) {
                removeAll(folder.resolve(left));
            }
        }
        String writing = WRITING + UUID.randomUUID();
        note(new Notes(List.of(writing), notes.replaced()));
        return Files.createDirectory(folder.resolve(writing));
    }

    /** Folders that are made on the way are as open as the project's; those that stand stay as they are. */
    private void make() throws IOException {
        List<Path> made = new ArrayList<>();
        for (Path each = folder; each != null && !Files.exists(each); each = each.getParent()) {
            made.add(each);
        }
        Files.createDirectories(folder);
        for (Path each : made) {
            open(each);
        }
    }

    /** A name that nothing has yet. */
    Path free(String name) {
        Path place = folder.resolve(name);
        for (int again = 2; Files.exists(place, LinkOption.NOFOLLOW_LINKS); again++) {
            place = folder.resolve(name + "-" + again);
        }
        return place;
    }

    /** Gives the files that were written the name of their load, for all to read; those that stand are about to be replaced. */
    void place(Path writing, Path place, Optional<Manifest> stands, Instant now) throws IOException {
        try (Stream<Path> below = Files.walk(writing)) {
            for (Path each : below.toList()) {
                open(each);
            }
        }
        List<Replaced> old = new ArrayList<>(notes().replaced());
        stands.ifPresent(manifest -> old.add(new Replaced(
                manifest.folder(),
                now.toString(),
                manifest.files().stream().map(WrittenFile::file).toList())));
        note(new Notes(List.of(name(writing), name(place)), old));
        Files.move(writing, place, StandardCopyOption.ATOMIC_MOVE);
    }

    private static String name(Path path) {
        return path.getFileName().toString();
    }

    /** The link by which readers find the files of the newest load: it points at the old ones, or at the new ones. */
    void point(String link, Path place) throws IOException {
        Path to = folder.resolve(link);
        if (Files.exists(to, LinkOption.NOFOLLOW_LINKS) && !Files.isSymbolicLink(to)) {
            throw new ZeitkammerException("Cannot publish to " + folder + ": " + to
                    + " is there, and is no link of this program; publish to another folder, or rename it");
        }
        Path beside = folder.resolve(WRITING + UUID.randomUUID());
        try {
            Files.createSymbolicLink(beside, place.getFileName());
        } catch (UnsupportedOperationException noLinks) {
            return; // readers there go by the manifest
        }
        Files.move(beside, to, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    /**
     * The manifest names the new files now: removes what was replaced long enough ago.
     *
     * @param until what was replaced after this moment stays
     */
    void end(Manifest stands, Instant until) throws IOException {
        open(folder.resolve(Manifest.FILE));
        List<Replaced> staying = new ArrayList<>();
        for (Replaced each : notes().replaced()) {
            boolean isRead = each.folder().equals(stands.folder());
            if (!isRead && Instant.parse(each.since()).isAfter(until)) {
                staying.add(each);
            } else if (!isRead) {
                remove(each);
            }
        }
        note(new Notes(List.of(), staying));
    }

    /** Removes files that were written once, and the folders that are empty then; what others put there stays. */
    private void remove(Replaced old) throws IOException {
        if (!isOfThisFolder(old.folder())) {
            return;
        }
        Path place = folder.resolve(old.folder()).normalize();
        List<Path> folders = new ArrayList<>();
        for (String file : old.files()) {
            Path path = folder.resolve(file).normalize();
            if (path.startsWith(place)) {
                Files.deleteIfExists(path);
                for (Path each = path.getParent(); each.startsWith(place); each = each.getParent()) {
                    folders.add(each);
                }
            }
        }
        for (Path each : folders.stream()
                .distinct()
                .sorted(Comparator.comparing(Path::getNameCount).reversed())
                .toList()) {
            try {
                Files.deleteIfExists(each);
            } catch (DirectoryNotEmptyException others) {
                return;
            }
        }
    }

    /** Whether a name that was noted is a folder right below this one, and no way out of it: others may write the notes too. */
    private boolean isOfThisFolder(String name) {
        Path path = folder.resolve(name);
        return path.normalize().equals(path)
                && folder.equals(path.getParent())
                && Files.isDirectory(path, LinkOption.NOFOLLOW_LINKS);
    }

    private static void removeAll(Path path) throws IOException {
        if (!Files.isDirectory(path, LinkOption.NOFOLLOW_LINKS)) {
            return;
        }
        try (Stream<Path> below = Files.walk(path)) {
            for (Path each : below.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(each);
            }
        }
    }

    /** Makes one file or folder as open to others as the folder of the project. */
    private void open(Path path) throws IOException {
        if (!hasPermissions(path) || Files.isSymbolicLink(path)) {
            return;
        }
        Set<PosixFilePermission> open = EnumSet.copyOf(Files.getPosixFilePermissions(path));
        Files.getPosixFilePermissions(project).stream()
                .filter(permission ->
                        Files.isDirectory(path) || permission.name().endsWith("READ"))
                .forEach(open::add);
        Files.setPosixFilePermissions(path, open);
    }

    /** Whether the file system knows of permissions, and of links with them. */
    private static boolean hasPermissions(Path path) {
        return path.getFileSystem().supportedFileAttributeViews().contains("posix");
    }

    /** The files that a manifest names and that do not lie there as they were written. */
    List<String> damaged(Manifest manifest) {
        return manifest.files().stream()
                .filter(file -> !isWhole(file))
                .map(WrittenFile::file)
                .toList();
    }

    private boolean isWhole(WrittenFile file) {
        Path path = folder.resolve(file.file());
        try {
            return Files.isRegularFile(path)
                    && Files.size(path) == file.bytes()
                    && checksum(path).equals(file.sha256());
        } catch (IOException unreadable) {
            return false;
        }
    }

    /** Whether the files that a manifest names lie there as they were written, and the link leads to them. */
    boolean holds(Manifest manifest, String link) {
        if (!damaged(manifest).isEmpty()) {
            return false;
        }
        try {
            Path to = folder.resolve(link);
            return Files.isSymbolicLink(to)
                    ? Files.readSymbolicLink(to).toString().equals(manifest.folder())
                    : !hasPermissions(folder);
        } catch (IOException unreadable) {
            return false;
        }
    }

    /** The SHA-256 sum of a file's bytes, in hexadecimal digits. */
    static String checksum(Path file) throws IOException {
        try (InputStream bytes = Files.newInputStream(file);
                DigestInputStream digested = new DigestInputStream(bytes, MessageDigest.getInstance("SHA-256"))) {
            digested.transferTo(OutputStream.nullOutputStream());
            return HexFormat.of().formatHex(digested.getMessageDigest().digest());
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }
}
