package dev.zeitkammer.extra;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;

/**
 * A program that is run without a shell in between: its last lines are kept, it ends when its time is over, and it does not outlive
 * this program where that can be helped.
 */
final class CommandRun {

    private static final int LINES = 100;
    private static final int LONGEST_LINE = 1000;
    private static final long GRACE_SECONDS = 5;

    private final List<String> command;
    private final Path folder;
    private final Map<String, String> environment;
    private final Deque<String> last = new ArrayDeque<>();

    CommandRun(List<String> command, Path folder, Map<String, String> environment) {
        this.command = command;
        this.folder = folder;
        this.environment = environment;
    }

    /**
     * How it ended.
     *
     * @param status its exit status; -1 where it did not end by itself
     * @param isOver whether its time was over
     * @param output its last lines
     */
    record Ended(int status, boolean isOver, String output) {}

    Ended run(Duration limit, String input) {
        Process process;
        try {
            ProcessBuilder builder =
                    new ProcessBuilder(command).directory(folder.toFile()).redirectErrorStream(true);
            builder.environment().putAll(environment);
            process = builder.start();
        } catch (IOException notStarted) {
            return new Ended(-1, false, String.valueOf(notStarted.getMessage()));
        }
        Thread hook = new Thread(() -> end(process));
        Runtime.getRuntime().addShutdownHook(hook);
        Thread reader = new Thread(() -> read(process), "extra step");
        reader.setDaemon(true);
        reader.start();
        try {
            write(process, input);
            boolean ended = process.waitFor(limit.toMillis(), TimeUnit.MILLISECONDS);
            if (!ended) {
                end(process);
            }
            reader.join(TimeUnit.SECONDS.toMillis(GRACE_SECONDS));
            return new Ended(ended ? process.exitValue() : -1, !ended, lines());
        } catch (InterruptedException stopped) {
            end(process);
            Thread.currentThread().interrupt();
            return new Ended(-1, false, lines());
        } finally {
            forget(hook);
        }
    }

    /** A command that does not read what it is told is none the worse for it. */
    private static void write(Process process, String input) {
        try (OutputStream told = process.getOutputStream()) {
            told.write(input.getBytes(StandardCharsets.UTF_8));
        } catch (IOException notRead) {
            // it has ended, or has closed its standard input
        }
    }

    private static void forget(Thread hook) {
        try {
            Runtime.getRuntime().removeShutdownHook(hook);
        } catch (IllegalStateException ending) {
            // the program ends already, and the hook with it
        }
    }

    /** Ends it with everything that it started: asked first, then made to. */
    private static void end(Process process) {
        List<ProcessHandle> started = process.descendants().toList();
        process.destroy();
        started.forEach(ProcessHandle::destroy);
        try {
            process.waitFor(GRACE_SECONDS, TimeUnit.SECONDS);
        } catch (InterruptedException hurried) {
            Thread.currentThread().interrupt();
        }
        process.destroyForcibly();
        started.forEach(ProcessHandle::destroyForcibly);
    }

    private void read(Process process) {
        try (BufferedReader output =
                new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8))) {
            StringBuilder line = new StringBuilder();
            int character = output.read();
            while (character >= 0) {
                if (character == '\n') {
                    keep(line.toString());
                    line.setLength(0);
                } else if (line.length() < LONGEST_LINE) {
                    line.append((char) character);
                }
                character = output.read();
            }
            if (!line.isEmpty()) {
                keep(line.toString());
            }
        } catch (IOException ended) {
            keep("(its output broke off: " + ended.getMessage() + ")");
        }
    }

    private void keep(String line) {
        synchronized (last) {
            last.addLast(line);
            if (last.size() > LINES) {
                last.removeFirst();
            }
        }
    }

    private String lines() {
        synchronized (last) {
            return String.join("\n", last);
        }
    }
}
