package dev.zeitkammer.cli.command;

import dev.zeitkammer.engine.ZeitkammerException;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.function.UnaryOperator;

/** A folder of text files that the program carries; its file {@code files.txt} lists the others. */
final class ResourceFolder {

    private final String root;

    /** @param root the folder's place among the resources, ending in a slash */
    ResourceFolder(String root) {
        this.root = root;
    }

    List<String> list() {
        return text("files.txt").lines().filter(line -> !line.isBlank()).toList();
    }

    String text(String file) {
        try (InputStream stream = ResourceFolder.class.getResourceAsStream(root + file)) {
            if (stream == null) {
                throw new IllegalStateException("the program lacks its file " + root + file);
            }
            return new String(stream.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException unreadable) {
            throw new IllegalStateException(unreadable);
        }
    }

    /** Writes a file below a folder unless it is there already. */
    void write(String file, Path folder, UnaryOperator<String> change) {
        Path target = folder.resolve(file);
        try {
            Files.createDirectories(target.toAbsolutePath().getParent());
            if (!Files.exists(target)) {
                Files.writeString(target, change.apply(text(file)));
            }
        } catch (IOException refused) {
            throw new ZeitkammerException("Cannot write " + target + ": " + refused.getMessage(), refused);
        }
    }
}
