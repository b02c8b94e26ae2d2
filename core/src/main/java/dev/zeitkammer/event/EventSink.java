package dev.zeitkammer.event;

import dev.zeitkammer.definition.Events;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpRequest.BodyPublishers;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;

/**
 * Takes events to a file or to a receiver, beside the load: whatever becomes of them, the load goes on, and at its end waits one
 * second at most. After the first event that cannot be delivered the others are not tried.
 */
public final class EventSink implements AutoCloseable {

    private static final Duration PATIENCE = Duration.ofSeconds(1);
    private static final int GOOD = 200;
    private static final int NOT_GOOD = 300;

    private final Events events;
    private final Path folder;
    private final ExecutorService beside;
    private final AtomicInteger open = new AtomicInteger();
    private final AtomicReference<String> amiss = new AtomicReference<>("");

    /** @param folder the project's folder */
    public EventSink(Events events, Path folder) {
        this.events = events;
        this.folder = folder;
        this.beside = Executors.newSingleThreadExecutor(work -> {
            Thread thread = new Thread(work, "events");
            thread.setDaemon(true);
            return thread;
        });
    }

    void take(String event) {
        open.incrementAndGet();
        beside.execute(() -> {
            if (amiss.get().isEmpty() && deliver(event)) {
                open.decrementAndGet();
            }
        });
    }

    private boolean deliver(String event) {
        try {
            if (events.isSent()) {
                send(event);
            } else {
                Files.writeString(
                        folder.resolve(events.to().text()),
                        event + "\n",
                        StandardOpenOption.CREATE,
                        StandardOpenOption.APPEND);
            }
            return true;
        } catch (IOException | IllegalArgumentException refused) {
            amiss.compareAndSet("", said(refused));
            return false;
        } catch (InterruptedException ended) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    private static String said(Exception refused) {
        return refused.getMessage() == null ? "there is no answer" : refused.getMessage();
    }

    private void send(String event) throws IOException, InterruptedException {
        HttpRequest.Builder request = HttpRequest.newBuilder(
                        URI.create(events.to().text()))
                .timeout(PATIENCE)
                .header("Content-Type", "application/json")
                .POST(BodyPublishers.ofString(event));
        events.key().ifPresent(key -> request.header("Authorization", "Bearer " + key));
        HttpResponse<Void> answer = Client.HTTP.send(request.build(), BodyHandlers.discarding());
        if (answer.statusCode() < GOOD || answer.statusCode() >= NOT_GOOD) {
            throw new IOException("it answered " + answer.statusCode());
        }
    }

    /** Made when the first event is sent: it takes a while. */
    private static final class Client {
        static final HttpClient HTTP =
                HttpClient.newBuilder().connectTimeout(PATIENCE).build();
    }

    /** Waits for what is under way, a second at most. */
    @Override
    public void close() {
        beside.shutdown();
        try {
            if (!beside.awaitTermination(PATIENCE.toMillis(), TimeUnit.MILLISECONDS)) {
                amiss.compareAndSet("", "it takes longer than a second");
                beside.shutdownNow();
            }
        } catch (InterruptedException ended) {
            Thread.currentThread().interrupt();
        }
    }

    /** What did not arrive, in words; empty where everything did. */
    public Optional<String> trouble() {
        int lost = open.get();
        return lost == 0
                ? Optional.empty()
                : Optional.of((lost == 1 ? "1 event" : lost + " events") + " did not reach " + events.to() + ": "
                        + amiss.get() + ". The load does not depend on them.");
    }
}
