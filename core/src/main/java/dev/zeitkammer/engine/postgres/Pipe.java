package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.PrivateFolder;
import java.io.IOException;
import java.io.InputStream;
import java.io.RandomAccessFile;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;

/**
 * Hands bytes from somebody who writes a file to somebody who reads a stream. Where the system has named pipes, one reads while
 * the other writes, and nothing goes to the disk; elsewhere the file is written first.
 */
final class Pipe {

    private static final long PATIENCE_SECONDS = 5;

    private Pipe() {}

    /** Writes the whole file of a path. */
    interface Writer {
        void write(Path file);
    }

    /** Reads a stream to its end. */
    interface Reader {
        void read(InputStream bytes) throws IOException;
    }

    /** Lets both work; the failure of the writer comes first, since what was read then is not all. */
    static void between(Writer writer, Reader reader) throws IOException {
        Path folder = Files.createTempDirectory(PrivateFolder.path(), "pipe");
        Path file = folder.resolve("rows");
        try {
            if (isMade(file)) {
                sideBySide(file, writer, reader);
            } else {
                writer.write(file);
                try (InputStream bytes = Files.newInputStream(file)) {
                    reader.read(bytes);
                }
            }
        } finally {
            Files.deleteIfExists(file);
            Files.deleteIfExists(folder);
        }
    }

    private static boolean isMade(Path pipe) {
        try {
            Process made = new ProcessBuilder("mkfifo", "-m", "600", pipe.toString())
                    .redirectErrorStream(true)
                    .start();
            made.getOutputStream().close();
            return made.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS) && made.exitValue() == 0;
        } catch (IOException noSuchCommand) {
            return false;
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    private static void sideBySide(Path pipe, Writer writer, Reader reader) throws IOException {
        CountDownLatch opened = new CountDownLatch(1);
        CompletableFuture<Void> writing = CompletableFuture.runAsync(() -> write(pipe, writer, opened), Pipe::inThread);
        IOException unread = null;
        RuntimeException failed = null;
        try (InputStream bytes = opened(pipe, opened)) {
            reader.read(bytes);
        } catch (IOException broken) {
            unread = broken;
        } catch (RuntimeException broken) {
            failed = broken;
        }
        try {
            writing.join();
        } catch (CompletionException unwritten) {
            // a writer whose reader has gone fails as well, and is not the one to tell why
            if (failed == null && unread == null && unwritten.getCause() instanceof RuntimeException cause) {
                throw cause;
            }
        }
        if (failed != null) {
            throw failed;
        }
        if (unread != null) {
            throw unread;
        }
    }

    private static void inThread(Runnable work) {
        Thread thread = new Thread(work, "rows");
        thread.setDaemon(true);
        thread.start();
    }

    /** The pipe for reading, as soon as somebody has it for writing. */
    private static InputStream opened(Path pipe, CountDownLatch opened) throws IOException {
        try {
            return Files.newInputStream(pipe);
        } finally {
            opened.countDown();
        }
    }

    /** A writer that fails before it opens the pipe must not leave the reader waiting for one. */
    private static void write(Path pipe, Writer writer, CountDownLatch opened) {
        try {
            writer.write(pipe);
        } catch (RuntimeException failed) {
            release(pipe, opened);
            throw failed;
        }
    }

    /** Has the pipe for writing until the reader has it too, who may come to it later than the writer failed. */
    private static void release(Path pipe, CountDownLatch opened) {
        try (RandomAccessFile both = new RandomAccessFile(pipe.toFile(), "rw")) {
            if (both.getFD().valid()) {
                opened.await();
            }
        } catch (IOException gone) {
            // then nobody waits for it
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
    }
}
