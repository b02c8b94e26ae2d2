package dev.zeitkammer.cli.output;

import java.io.ByteArrayOutputStream;
import java.io.File;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Holds back what is written until it is longer than the terminal is high, and then gives it to the user's pager. What is shorter is
 * written when it is closed, and no pager is started for it.
 */
public final class Pager extends OutputStream {

    private static final String USUAL = "less";

    /** Ends where all fits, keeps colours, and leaves what was shown on the screen; for whoever says nothing else. */
    private static final String OPTIONS_OF_LESS = "FRX";

    /** Commands that read and answer, without showing how far they are. */
    private static final Set<String> PAGED =
            Set.of("show", "history", "explain", "journal", "set-aside", "lineage", "compare", "help", "--help", "-h");

    private final OutputStream out;
    private final String command;
    private final int most;
    private final ByteArrayOutputStream held = new ByteArrayOutputStream();
    private int lines;
    private @Nullable Process reader;

    Pager(OutputStream out, String command, int most) {
        this.out = out;
        this.command = command;
        this.most = most;
    }

    /**
     * A pager before an output that is a terminal; empty where the output goes elsewhere, a command shows its progress, the height is not
     * known, or the user wants none ({@code PAGER} empty or {@code cat}).
     */
    public static Optional<Pager> of(OutputStream out, Map<String, String> environment, String... args) {
        OptionalInt height = Terminal.height();
        String command = environment.getOrDefault("PAGER", USUAL).strip();
        boolean isWanted = Arrays.stream(args).anyMatch(PAGED::contains)
                && !Set.of("", "cat").contains(command)
                && !"dumb".equals(environment.get("TERM"));
        return isWanted && height.isPresent() && isThere(command, environment)
                ? Optional.of(new Pager(out, command, height.getAsInt() - 1))
                : Optional.empty();
    }

    private static boolean isThere(String command, Map<String, String> environment) {
        String program = command.split("\\s+")[0];
        return program.contains("/")
                ? Files.isExecutable(Path.of(program))
                : Arrays.stream(environment.getOrDefault("PATH", "").split(File.pathSeparator))
                        .filter(folder -> !folder.isEmpty())
                        .anyMatch(folder -> Files.isExecutable(Path.of(folder, program)));
    }

    @Override
    public void write(int one) throws IOException {
        write(new byte[] {(byte) one}, 0, 1);
    }

    @Override
    public void write(byte[] bytes, int from, int count) throws IOException {
        if (reader != null) {
            give(reader, bytes, from, count);
            return;
        }
        held.write(bytes, from, count);
        for (int index = from; index < from + count; index++) {
            lines += bytes[index] == '\n' ? 1 : 0;
        }
        if (lines > most) {
            Process started = start();
            reader = started;
            give(started, held.toByteArray(), 0, held.size());
        }
    }

    private Process start() throws IOException {
        ProcessBuilder builder = new ProcessBuilder("sh", "-c", command)
                .redirectOutput(ProcessBuilder.Redirect.INHERIT)
                .redirectError(ProcessBuilder.Redirect.INHERIT);
        builder.environment().putIfAbsent("LESS", OPTIONS_OF_LESS);
        builder.environment().putIfAbsent("LESSCHARSET", "utf-8");
        Process started = builder.start();
        // whoever interrupts the program still reads what came
        Runtime.getRuntime().addShutdownHook(new Thread(() -> await(started)));
        return started;
    }

    /** Whoever has read enough has closed the other end: what follows is read by nobody. */
    private static void give(Process reader, byte[] bytes, int from, int count) {
        try {
            reader.getOutputStream().write(bytes, from, count);
            reader.getOutputStream().flush();
        } catch (IOException closed) {
            // read by nobody
        }
    }

    private static void await(Process reader) {
        try {
            reader.getOutputStream().close();
        } catch (IOException closed) {
            // by its reader
        }
        try {
            reader.waitFor();
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
    }

    /** Writes what is held back, or waits until the user has read. */
    @Override
    public void close() throws IOException {
        if (reader != null) {
            await(reader);
        } else {
            held.writeTo(out);
            held.reset();
            out.flush();
        }
    }
}
