package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.PrivateFolder;
import dev.zeitkammer.staging.text.FileBytes;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;

/**
 * The files of one delivery, in order of their paths; never none.
 */
final class DeliveredFiles {

    /** How many times as large files are when unpacked, by the ends of their names. */
    private static final Map<String, Integer> PACKING = Map.of(".gz", 5, ".zst", 5, ".parquet", 2);

    private static final long MOST_OF_A_LINE = 1 << 28;
    private static final long LONGEST_LINE = 253L << 20;

    private final Path folder;
    private final List<Path> paths;
    private final Map<Path, Long> longest = new LinkedHashMap<>();
    private final Map<Path, Path> followed = new HashMap<>();

    /** @param folder the project's folder */
    DeliveredFiles(Path folder, List<Path> paths) {
        this.folder = folder;
        this.paths = List.copyOf(paths);
    }

    Path folder() {
        return folder;
    }

    List<Path> paths() {
        return paths;
    }

    /** A file as messages show it: relative to the project where it is inside. */
    String shown(Path file) {
        return file.startsWith(folder) ? folder.relativize(file).toString().replace('\\', '/') : file.toString();
    }

    /** A file by its number, as messages show it. */
    String shown(int number) {
        return shown(paths.get(number));
    }

    /** Whether messages call one of the files by this name. */
    boolean hold(String file) {
        return paths.stream().map(this::shown).anyMatch(file::equals);
    }

    /** The names of the files, as messages show them. */
    String shown() {
        return shown(0) + (paths.size() == 1 ? "" : " and " + (paths.size() - 1) + " more");
    }

    /** About how many bytes they have when unpacked. */
    long bytes() {
        long bytes = 0;
        for (Path file : paths) {
            String name = file.toString().toLowerCase(Locale.ROOT);
            int packing = PACKING.getOrDefault(name.substring(Math.max(0, name.lastIndexOf('.'))), 1);
            try {
                bytes += Files.size(file) * packing;
            } catch (IOException unknown) {
                return Long.MAX_VALUE;
            }
        }
        return bytes;
    }

    /** When they were written and how large they are; another text when one of them changed. */
    String stamps() {
        StringBuilder stamps = new StringBuilder();
        for (Path file : paths) {
            try {
                stamps.append(Files.getLastModifiedTime(file).toMillis())
                        .append(' ')
                        .append(Files.size(file))
                        .append('\n');
            } catch (IOException gone) {
                stamps.append("gone\n");
            }
        }
        return stamps.toString();
    }

    /**
     * Makes sure that they are what they were.
     *
     * @param seen the {@link #stamps} of before
     * @throws StagingException when one of them changed meanwhile
     */
    void unchangedSince(String seen) {
        if (!seen.equals(stamps())) {
            throw new StagingException("Cannot load " + shown()
                    + ": it was changed while it was being read; nothing was loaded, load again when it is complete");
        }
    }

    /** Throws when one of them is no file that can be read. */
    void readable() {
        for (Path file : paths) {
            if (!Files.exists(file)) {
                throw new StagingException("Cannot read " + shown(file) + ": there is no such file");
            }
            if (!Files.isReadable(file)) {
                throw new StagingException("Cannot read " + shown(file) + ": no permission");
            }
            if (!Files.isDirectory(file) && !Files.isRegularFile(file)) {
                throw new StagingException("Cannot read " + shown(file)
                        + ": it is a pipe or a device; expected a file, which is read more than once");
            }
            if (Files.isDirectory(file)) {
                throw new StagingException(
                        "Cannot read " + shown(file) + ": it is a folder; add a file pattern, such as *.csv");
            }
        }
    }

    /** Throws when one of them, a file of texts, did not come whole. */
    void intact(String encoding) {
        for (Path file : paths) {
            FileBytes bytes = FileBytes.of(file, encoding);
            bytes.damage().ifPresent(damage -> {
                throw new StagingException("Cannot read " + shown(file) + ": " + damage);
            });
            longest.put(file, bytes.longest());
        }
    }

    /**
     * Whether there are lines longer than the engine's readers expect; known when they are {@link #intact}.
     *
     * @throws StagingException when one is longer than they can take
     */
    boolean haveLongLines() {
        longest.forEach((file, bytes) -> {
            if (bytes > LONGEST_LINE) {
                throw new StagingException("Cannot read " + shown(file) + ": it has a line of about " + (bytes >> 20)
                        + " MB, and lines have 250 MB at most");
            }
        });
        return longest.values().stream().anyMatch(bytes -> bytes > 0);
    }

    /** Options of the engine's reader for files with long lines. */
    static String longLines() {
        return " max_line_size = " + MOST_OF_A_LINE + ", buffer_size = " + 2 * MOST_OF_A_LINE + ",";
    }

    /**
     * Lets the engine, which leaves the folders of deliveries by no link, read a copy of what a link leads to.
     *
     * @throws StagingException when it cannot be copied
     */
    DeliveredFiles followingLinks() {
        for (Path file : paths) {
            if (Files.isSymbolicLink(file)) {
                try {
                    Path copy = PrivateFolder.file(file.getFileName().toString());
                    Files.copy(file, copy, StandardCopyOption.REPLACE_EXISTING);
                    followed.put(file, copy);
                } catch (IOException unreadable) {
                    throw new StagingException(
                            "Cannot read " + shown(file) + ", which is a link: " + unreadable.getMessage(), unreadable);
                }
            }
        }
        return this;
    }

    private String read(int number) {
        Path file = paths.get(number);
        return followed.getOrDefault(file, file).toString();
    }

    /** Throws when the columns of a file are not those of the first. */
    void sameColumns(List<List<String>> headers) {
        List<String> expected = folded(headers.get(0));
        for (int number = 0; number < headers.size(); number++) {
            if (!folded(headers.get(number)).equals(expected)) {
                throw new StagingException("Cannot stage " + shown(number) + ": its columns ("
                        + String.join(", ", headers.get(number)) + ") are not those of " + shown(0) + " ("
                        + String.join(", ", headers.get(0)) + ")");
            }
        }
    }

    private static List<String> folded(List<String> names) {
        return names.stream()
                .map(name -> name.toLowerCase(Locale.ROOT))
                .sorted()
                .toList();
    }

    /** Some of the files as a list for SQL. */
    String list(Dialect dialect, List<Integer> numbers) {
        return numbers.stream().map(number -> dialect.text(read(number))).collect(Collectors.joining(", ", "[", "]"));
    }

    /** The same for the engine's readers, which take names for patterns: what stands for other letters is written as itself. */
    String patterns(Dialect dialect, List<Integer> numbers) {
        return numbers.stream()
                .map(number -> dialect.text(read(number).replaceAll("[\\[*?]", "[$0]")))
                .collect(Collectors.joining(", ", "[", "]"));
    }

    /** SQL for the number of the file that a row came from, where {@code zk_filename} names it. */
    String number(Dialect dialect, List<Integer> numbers) {
        return numbers.size() == 1
                ? "cast(" + numbers.get(0) + " as smallint)"
                : "cast(" + numbers + "[list_position(" + list(dialect, numbers) + ", zk_filename)] as smallint)";
    }
}
