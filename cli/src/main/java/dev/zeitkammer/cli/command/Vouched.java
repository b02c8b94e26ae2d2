package dev.zeitkammer.cli.command;

import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.ZeitkammerException;
import java.io.File;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * The folders whose projects this user has vouched for: in a file of the user's own, beyond all projects, and in a variable of the
 * environment.
 */
final class Vouched {

    /** The variable of the environment that names folders, with all below them. */
    static final String VARIABLE = "ZEITKAMMER_VOUCHED";

    private static final String FILE = "zeitkammer/vouched-for";

    private final Map<String, String> environment;

    Vouched(Map<String, String> environment) {
        this.environment = environment;
    }

    /** Whether the user has vouched for the project in a folder. */
    boolean covers(Path folder) {
        Path real = real(folder);
        return named().anyMatch(real::startsWith) || noted().contains(real.toString());
    }

    private Stream<Path> named() {
        String folders = environment.getOrDefault(VARIABLE, "");
        return Stream.of(folders.split(Pattern.quote(File.pathSeparator)))
                .filter(each -> !each.isBlank())
                .map(Path::of)
                .map(Vouched::real);
    }

    private List<String> noted() {
        Optional<Path> file = file().filter(Files::isRegularFile);
        try {
            return file.isPresent() ? Files.readAllLines(file.get(), StandardCharsets.UTF_8) : List.of();
        } catch (IOException unreadable) {
            throw refused("read", unreadable);
        }
    }

    /**
     * Notes that the user vouches for the project in a folder.
     *
     * @throws ZeitkammerException where it cannot be noted
     */
    void note(Path folder) {
        if (covers(folder)) {
            return;
        }
        Path file = file().orElseThrow(() -> new ZeitkammerException(
                "Neither HOME nor XDG_CONFIG_HOME says where to note it; name the folder in " + VARIABLE));
        try {
            Files.createDirectories(file.getParent());
            if (!Files.exists(file)) {
                Files.createFile(
                        file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            }
            Files.writeString(file, oneLine(real(folder)) + "\n", StandardCharsets.UTF_8, StandardOpenOption.APPEND);
        } catch (IOException unwritable) {
            throw refused("write", unwritable);
        }
    }

    /** Each line is a folder: one whose name holds the end of a line would vouch for another one. */
    private static String oneLine(Path folder) {
        if (folder.toString().matches("(?s).*[\\r\\n].*")) {
            throw new UsageException("The name of the project's folder holds the end of a line; give it another name");
        }
        return folder.toString();
    }

    /** Takes it back; whether the user had vouched for it. */
    boolean forget(Path folder) {
        String real = real(folder).toString();
        List<String> noted = noted();
        if (!noted.contains(real)) {
            return false;
        }
        try {
            Files.write(
                    file().orElseThrow(),
                    noted.stream().filter(each -> !each.equals(real)).toList());
        } catch (IOException unwritable) {
            throw refused("write", unwritable);
        }
        return true;
    }

    private ZeitkammerException refused(String what, IOException why) {
        return new ZeitkammerException(
                "Cannot " + what + " " + file().orElseThrow() + ", which notes the projects that you vouch for: "
                        + why.getMessage() + "; or name the folder in " + VARIABLE,
                why);
    }

    private Optional<Path> file() {
        Optional<Path> own = variable("XDG_CONFIG_HOME")
                .filter(Path::isAbsolute)
                .or(() -> variable("HOME").map(home -> home.resolve(".config")));
        return own.map(folder -> folder.resolve(FILE));
    }

    private Optional<Path> variable(String name) {
        return Optional.ofNullable(environment.get(name))
                .filter(value -> !value.isBlank())
                .map(Path::of);
    }

    private static Path real(Path folder) {
        try {
            return folder.toRealPath();
        } catch (IOException notThere) {
            return folder.toAbsolutePath().normalize();
        }
    }
}
