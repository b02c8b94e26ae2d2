package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Format;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;
import picocli.CommandLine.ScopeType;

/** The options that every command takes. */
final class CommonOptions {

    @Option(
            names = {"-p", "--project"},
            paramLabel = "DIR",
            scope = ScopeType.INHERIT,
            defaultValue = "",
            description = "The project's folder (default: here).")
    private Path project = Path.of("");

    @Option(
            names = {"-w", "--warehouse"},
            paramLabel = "NAME",
            scope = ScopeType.INHERIT,
            description = "A warehouse of zeitkammer.yaml (default: the one under use:).")
    private @Nullable String warehouse;

    @Option(
            names = "--format",
            paramLabel = "FORM",
            scope = ScopeType.INHERIT,
            description = "text, json or csv (default: text).")
    private Format format = Format.TEXT;

    @Option(
            names = "--wait",
            paramLabel = "TIME",
            scope = ScopeType.INHERIT,
            description =
                    "How long to wait for a warehouse that another program has, or whose server does not answer yet:"
                            + " 90s, 5m (default: not at all).")
    private Duration patience = Duration.ZERO;

    @Option(
            names = "--with-drivers",
            scope = ScopeType.INHERIT,
            description = "Lets the database drivers in the project's folder drivers run, which are programs.")
    private boolean withDrivers;

    @Option(
            names = {"-q", "--quiet"},
            scope = ScopeType.INHERIT,
            description = "Results and errors only.")
    private boolean quiet;

    @Option(
            names = {"-v", "--verbose"},
            scope = ScopeType.INHERIT,
            description =
                    "Each step as it runs, each statement with its time and rows, and the whole cause of an error.")
    private boolean verbose;

    Path project() {
        return project;
    }

    Optional<String> warehouse() {
        return Optional.ofNullable(warehouse);
    }

    Duration patience() {
        return patience;
    }

    Format format() {
        return format;
    }

    boolean withDrivers() {
        return withDrivers;
    }

    boolean quiet() {
        return quiet;
    }

    boolean verbose() {
        return verbose;
    }
}
