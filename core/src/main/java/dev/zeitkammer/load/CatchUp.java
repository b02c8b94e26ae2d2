package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.LoadDate;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Finds what is left to load of a day, so that catching up goes on where it stopped. */
public final class CatchUp {

    private final Warehouse warehouse;
    private final Journal journal;

    public CatchUp(Warehouse warehouse) {
        this.warehouse = warehouse;
        this.journal = new Journal(warehouse);
    }

    /**
     * The tables that a day still needs: none where all were loaded for it, or had no delivery when the others were; else all
     * but those that were loaded for it and for a later day.
     */
    public List<Definition> open(LoadDate day, List<Definition> wanted) {
        if (!journal.hasBooks()) {
            return wanted;
        }
        List<LoadEntry> loads = journal.loads().stream()
                .filter(load -> load.date().equals(day.toString()))
                .toList();
        Set<String> loaded = tables(loads, LoadStatus.DONE);
        Set<String> skipped = loaded.isEmpty() ? Set.of() : tables(loads, LoadStatus.SKIPPED);
        boolean isComplete = wanted.stream()
                .map(Definition::table)
                .allMatch(table -> loaded.contains(table) || skipped.contains(table));
        return isComplete
                ? List.of()
                : wanted.stream()
                        .filter(definition -> !loaded.contains(definition.table()) || isNewest(definition, day))
                        .toList();
    }

    private static Set<String> tables(List<LoadEntry> loads, LoadStatus status) {
        return loads.stream()
                .flatMap(load -> load.tables().stream())
                .filter(entry -> entry.status() == status)
                .map(TableEntry::table)
                .collect(Collectors.toSet());
    }

    private boolean isNewest(Definition definition, LoadDate day) {
        Optional<String> newest = new Books(warehouse).newestDate(definition.table());
        return newest.isEmpty() || newest.get().compareTo(day.toString()) <= 0;
    }
}
