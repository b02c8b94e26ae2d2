package dev.zeitkammer.cli;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zeitkammer.cli.command.CommandLineProgram;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;

/** The program in a folder: its command line in the process of the tests, or the built program as a process of its own. */
final class Program {

    private static final Path LAUNCHER =
            Path.of("..", "zeitkammer").toAbsolutePath().normalize();

    private final Path folder;

    /** Whether there is a night's time: then a test kills loads at thirty places, not at a few. */
    static boolean isThorough() {
        return Boolean.getBoolean("thorough");
    }

    static Path launcher() {
        return LAUNCHER;
    }

    Program(Path folder) {
        this.folder = folder;
    }

    /** What a run of the program left. */
    record Run(int status, String out, String err) {

        JsonNode json() {
            try {
                return new ObjectMapper().readTree(out);
            } catch (IOException noJson) {
                throw new UncheckedIOException(noJson);
            }
        }
    }

    /** Starts the program; its outputs go to files beside the folder. */
    Process start(String... args) {
        List<String> command = new ArrayList<>(List.of(LAUNCHER.toString()));
        command.addAll(List.of(args));
        try {
            return new ProcessBuilder(command)
                    .directory(folder.toFile())
                    .redirectOutput(output("out").toFile())
                    .redirectError(output("err").toFile())
                    .start();
        } catch (IOException notStarted) {
            throw new UncheckedIOException(notStarted);
        }
    }

    /** Starts the program with its standard error in reach of the caller. */
    Process startTelling(String... args) {
        List<String> command = new ArrayList<>(List.of(LAUNCHER.toString()));
        command.addAll(List.of(args));
        try {
            return new ProcessBuilder(command)
                    .directory(folder.toFile())
                    .redirectOutput(output("out").toFile())
                    .start();
        } catch (IOException notStarted) {
            throw new UncheckedIOException(notStarted);
        }
    }

    private Path output(String name) {
        return folder.resolveSibling(folder.getFileName() + "." + name);
    }

    /** Runs a command line as the process would, without starting one; paths below the folder are told as from within it. */
    Run run(String... args) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        int status;
        try (PrintStream told = new PrintStream(out, false, StandardCharsets.UTF_8);
                PrintStream said = new PrintStream(err, true, StandardCharsets.UTF_8)) {
            status = new CommandLineProgram(told, said, environment(), folder).run(args);
        }
        return new Run(status, fromWithin(out), fromWithin(err));
    }

    private static Map<String, String> environment() {
        Map<String, String> environment = new HashMap<>(System.getenv());
        environment.put("ZEITKAMMER_LAUNCHER", LAUNCHER.toString());
        return environment;
    }

    private String fromWithin(ByteArrayOutputStream printed) {
        return printed.toString(StandardCharsets.UTF_8).replace(folder + "/", "");
    }

    /** Starts the built program and waits for its end. */
    Run launched(String... args) {
        Process process = start(args);
        try {
            if (!process.waitFor(5, TimeUnit.MINUTES)) {
                process.destroyForcibly();
                throw new IllegalStateException("the program did not end: " + List.of(args));
            }
            return new Run(process.exitValue(), Files.readString(output("out")), Files.readString(output("err")));
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(interrupted);
        }
    }

    /** The rows of a table as CSV, without the columns that say when and by which load they were written. */
    List<String> table(String name, String... options) {
        List<String> arguments = new ArrayList<>(List.of("show", name, "--format", "csv"));
        arguments.addAll(List.of(options));
        List<String> lines = run(arguments.toArray(String[]::new)).out().lines().toList();
        List<String> header = List.of(lines.get(0).split(",", -1));
        int kept = header.indexOf("inserted_at");
        return lines.stream()
                .map(line -> String.join(",", List.of(line.split(",", -1)).subList(0, kept)))
                .toList();
    }

    /** The rows of a table as CSV. */
    String wholeTable(String name) {
        return run("show", name, "--format", "csv").out();
    }

    void write(String file, String text) {
        try {
            Path path = folder.resolve(file);
            Files.createDirectories(path.getParent());
            Files.writeString(path, text, StandardCharsets.UTF_8);
        } catch (IOException refused) {
            throw new UncheckedIOException(refused);
        }
    }

    /** The lines of a file in the folder. */
    List<String> lines(String file) {
        try {
            return Files.readAllLines(folder.resolve(file));
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }

    /** Who may read and write a file, as in {@code rw-r--r--}. */
    String permissions(String file) {
        try {
            return PosixFilePermissions.toString(Files.getPosixFilePermissions(folder.resolve(file)));
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }

    String read(String file) {
        try {
            return Files.readString(folder.resolve(file));
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }
}
