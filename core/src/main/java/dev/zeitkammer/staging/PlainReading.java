package dev.zeitkammer.staging;

import dev.zeitkammer.staging.text.PlainScan;
import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.OptionalLong;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;

/**
 * A reading in which the engine makes values of texts itself, while somebody beside it looks whether all of them are plain. Only
 * if they are, and the engine made a row of every record, are its rows those that a strict conversion would make.
 */
final class PlainReading {

    private final String query;
    private final CompletableFuture<OptionalLong> records;

    /** A file, and the look over it. */
    record Look(Path file, PlainScan scan) {}

    /** @param query the rows with their values as their types */
    PlainReading(String query, List<Look> looks) {
        this.query = query;
        this.records = new CompletableFuture<>();
        Thread beside = new Thread(() -> look(looks), "plain values");
        beside.setDaemon(true);
        beside.start();
    }

    private void look(List<Look> looks) {
        try {
            long all = 0;
            for (Look look : looks) {
                OptionalLong found = look.scan().records(look.file());
                if (found.isEmpty()) {
                    return;
                }
                all += found.getAsLong();
            }
            records.complete(OptionalLong.of(all));
        } catch (IOException unreadable) {
            // the engine's reader tells what is wrong with the file
        } finally {
            records.complete(OptionalLong.empty()); // whatever ended the look: nobody waits for it for ever
        }
    }

    String query() {
        return query;
    }

    /** Whether all values were plain and the engine made so many rows of them. */
    boolean made(long rows) {
        try {
            OptionalLong found = records.get();
            return found.isPresent() && found.getAsLong() == rows;
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
            return false;
        } catch (ExecutionException failed) {
            return false;
        }
    }
}
