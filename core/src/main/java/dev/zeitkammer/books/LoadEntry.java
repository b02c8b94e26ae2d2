package dev.zeitkammer.books;

import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;

/**
 * A load as the journal keeps it.
 *
 * @param date the load date as it was given
 * @param started UTC
 * @param ended UTC; empty when it was cut off
 * @param extra how its extra steps went, in order
 */
public record LoadEntry(
        long load,
        String date,
        LoadStatus status,
        LocalDateTime started,
        Optional<LocalDateTime> ended,
        List<TableEntry> tables,
        List<ExtraRun> extra) {

    public LoadEntry {
        tables = List.copyOf(tables);
        extra = List.copyOf(extra);
    }
}
