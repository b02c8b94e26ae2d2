package dev.zeitkammer.cli.command;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.load.LoadListener;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Clock;
import java.time.temporal.ChronoUnit;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** What happens in a load as lines of JSON, for machines that watch it. Where a line cannot be written, the load goes on without. */
final class LoadLog implements LoadListener {

    private static final ObjectMapper MAPPER = new ObjectMapper();

    private final Path file;
    private final LoadListener other;
    private final Clock clock;
    private String trouble = "";

    private LoadLog(Path file, LoadListener other, Clock clock) {
        this.file = file;
        this.other = other;
        this.clock = clock;
    }

    /**
     * Lines are added to a file.
     *
     * @param other who hears everything too
     * @throws UsageException where the file cannot be written
     */
    static LoadLog to(Path file, LoadListener other, Clock clock) {
        Path folder = file.toAbsolutePath().getParent();
        if (!Files.isDirectory(folder)) {
            throw new UsageException("Cannot write the log " + file + ": there is no folder " + folder);
        }
        try {
            Files.writeString(file, "", StandardOpenOption.CREATE, StandardOpenOption.APPEND);
        } catch (IOException refused) {
            throw new UsageException("Cannot write the log " + file + ": " + refused.getMessage());
        }
        return new LoadLog(file, other, clock);
    }

    void begins(String date) {
        line("begins", Map.of("date", date));
    }

    void ends(List<LoadEntry> loads) {
        for (LoadEntry load : loads) {
            Map<String, Object> told = new LinkedHashMap<>();
            told.put("load", load.load());
            told.put("date", load.date());
            told.put("status", load.status().word());
            line("ends", told);
        }
    }

    @Override
    public void step(String table, Caption step) {
        line("step", Map.of("table", table, "step", step.name()));
        other.step(table, step);
    }

    @Override
    public void notes(String table, List<String> notes) {
        notes.forEach(note -> line("note", Map.of("table", table, "note", Secrets.cleaned(note))));
        other.notes(table, notes);
    }

    @Override
    public void ended(TableEntry entry) {
        Map<String, Object> told = new LinkedHashMap<>();
        told.put("table", entry.table());
        told.put("status", entry.status().word());
        told.put("seconds", entry.seconds());
        told.put("inserted", entry.inserted());
        told.put("updated", entry.updated());
        told.put("counts", entry.counts());
        told.put("lookups", entry.lookups());
        entry.error().ifPresent(error -> told.put("error", Secrets.cleaned(error)));
        line("table", told);
        other.ended(entry);
    }

    @Override
    public void cause(Throwable cause) {
        other.cause(cause);
    }

    /** Why lines are missing; empty where none is. */
    Optional<String> trouble() {
        return Optional.of(trouble).filter(words -> !words.isEmpty());
    }

    private synchronized void line(String event, Map<String, Object> told) {
        if (!trouble.isEmpty()) {
            return;
        }
        Map<String, Object> line = new LinkedHashMap<>();
        line.put("at", clock.instant().truncatedTo(ChronoUnit.MILLIS).toString());
        line.put("event", event);
        line.putAll(told);
        try {
            Files.writeString(
                    file, MAPPER.writeValueAsString(line) + "\n", StandardOpenOption.CREATE, StandardOpenOption.APPEND);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException(impossible);
        } catch (IOException refused) {
            trouble = "The log " + file + " could not be written any more: " + refused.getMessage();
        }
    }
}
