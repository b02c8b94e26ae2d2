package dev.zeitkammer.extra;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.step.Stamp;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How a table's load, or all of it, ended, for a step that runs then.
 *
 * @param entries the table, or the tables of the load
 * @param stopped the step that stopped the load; empty where none did
 */
record Ending(Stamp stamp, LoadStatus status, List<TableEntry> entries, Optional<String> stopped) {

    private static final ObjectMapper JSON = new ObjectMapper();

    /** The first table that did not load, and why. */
    Map<String, String> environment() {
        Map<String, String> environment = new LinkedHashMap<>();
        environment.put("ZEITKAMMER_STATUS", status.word());
        Optional<TableEntry> first = entries.stream()
                .filter(entry -> entry.status() == LoadStatus.FAILED || entry.status() == LoadStatus.STOPPED)
                .findFirst();
        first.ifPresent(entry -> environment.put("ZEITKAMMER_TABLE", entry.table()));
        first.flatMap(TableEntry::error)
                .or(() -> stopped)
                .ifPresent(error -> environment.put("ZEITKAMMER_ERROR", Secrets.cleaned(error)));
        return environment;
    }

    /** All of it. */
    String json() {
        Map<String, Object> told = new LinkedHashMap<>();
        told.put("load", stamp.load());
        told.put("date", stamp.date().toString());
        told.put("status", status.word());
        stopped.ifPresent(error -> told.put("error", Secrets.cleaned(error)));
        told.put("tables", entries.stream().map(Ending::table).toList());
        try {
            return JSON.writeValueAsString(told);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    private static Map<String, Object> table(TableEntry entry) {
        Map<String, Object> told = new LinkedHashMap<>();
        told.put("table", entry.table());
        told.put("status", entry.status().word());
        told.put("counts", entry.counts());
        entry.error().ifPresent(error -> told.put("error", Secrets.cleaned(error)));
        return told;
    }
}
