package dev.zeitkammer.load;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.staging.Checksums;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.step.Stamp;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/**
 * What a table is loaded from: two loads whose fingerprints are equal read the same bytes by the same definition for the same
 * date, with the same program, and found the same state of what they look up.
 */
final class Fingerprint {

    /** The program's version, the definition, the load date and the files' names and sizes. */
    private final String readily;

    private final CompletableFuture<Optional<String>> contents;

    /**
     * Begins to read the files, beside what else is done.
     *
     * @param deliveries everything that is delivered to the table, files all of it
     */
    Fingerprint(Definition definition, Stamp stamp, String program, List<Delivery> deliveries) {
        List<Path> files = deliveries.stream()
                .flatMap(delivery -> delivery.files().stream())
                .toList();
        String names = deliveries.stream()
                .map(delivery -> delivery.input().name() + " " + delivery.files())
                .collect(Collectors.joining("\n"));
        this.readily =
                String.join("\n", program, definition.toString(), stamp.date().toString(), names, sizes(files));
        this.contents = CompletableFuture.supplyAsync(() -> checksums(files));
    }

    private static String sizes(List<Path> files) {
        try {
            return Checksums.sizes(files);
        } catch (IOException gone) {
            return "";
        }
    }

    /** Nothing where a file cannot be read; whoever loads it says why. */
    private static Optional<String> checksums(List<Path> files) {
        try {
            return Optional.of(Checksums.of(files));
        } catch (IOException gone) {
            return Optional.empty();
        }
    }

    private static String digest(String text) {
        try {
            byte[] digest = MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(digest);
        } catch (NoSuchAlgorithmException never) {
            throw new IllegalStateException(never);
        }
    }

    /**
     * Whether another load had this fingerprint; what takes longer to find out is asked only where everything before it is the same.
     *
     * @param noted as the books keep it: what is told readily, the state and the checksums, with blanks between
     * @param columns those of the table
     * @param state what the tables are that the outcome depends on
     */
    boolean is(String noted, List<Column> columns, Supplier<String> state) {
        String beginning = readily(columns) + " ";
        return noted.startsWith(beginning)
                && contents.join()
                        .filter(checksums -> noted.endsWith(" " + checksums))
                        .filter(checksums -> noted.equals(beginning + state.get() + " " + checksums))
                        .isPresent();
    }

    /** What is told without reading the files. */
    String readily(List<Column> columns) {
        return digest(readily + columns);
    }

    /** The checksums of the files; nothing where one could not be read. */
    Optional<String> checksums() {
        return contents.join();
    }
}
