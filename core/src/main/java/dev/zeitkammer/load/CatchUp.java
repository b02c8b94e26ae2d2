package dev.zeitkammer.load;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.step.TableLoad;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Finds what is left to load of a day, so that catching up goes on where it stopped. */
public final class CatchUp {

    private final Project project;
    private final Warehouse warehouse;
    private final Journal journal;

    public CatchUp(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
        this.journal = new Journal(warehouse);
    }

    /**
     * What a day still needs.
     *
     * @param tables the tables to load for it
     * @param tooLate tables that have a delivery for the day and cannot be loaded for it, since the load date orders their history
     *     and they were loaded for a later one
     */
    public record Open(List<Definition> tables, List<Definition> tooLate) {}

    /**
     * The tables that a day still needs: none where all were loaded for it, or had no delivery and have none; else all but those
     * that were loaded for it and for a later day.
     *
     * @param again whether tables that were loaded are wanted too
     */
    public Open open(LoadDate day, List<Definition> wanted, boolean again) {
        if (!journal.hasBooks()) {
            return new Open(wanted, List.of());
        }
        List<LoadEntry> loads = journal.loads().stream()
                .filter(load -> load.date().equals(day.toString()))
                .toList();
        Set<String> loaded = tables(loads, entry -> entry.status() == LoadStatus.DONE && !wasOnlyKept(entry));
        Set<String> skipped = loaded.isEmpty()
                ? Set.of()
                : tables(loads, entry -> entry.status() == LoadStatus.SKIPPED || wasOnlyKept(entry));
        Predicate<Definition> isSettled = definition -> loaded.contains(definition.table())
                || (skipped.contains(definition.table()) && !isDelivered(definition, day));
        if (!again && wanted.stream().allMatch(isSettled)) {
            return new Open(List.of(), List.of());
        }
        List<Definition> open = wanted.stream()
                .filter(definition -> again || !loaded.contains(definition.table()) || isNewest(definition, day))
                .toList();
        List<Definition> tooLate = open.stream()
                .filter(definition -> !isNewest(definition, day)
                        && new TableLoads(project, warehouse, Known.of(warehouse))
                                .of(definition)
                                .followsLoadDate())
                .toList();
        return new Open(
                open.stream()
                        .filter(definition -> !tooLate.contains(definition))
                        .toList(),
                tooLate.stream()
                        .filter(definition -> isDelivered(definition, day))
                        .toList());
    }

    /**
     * Whether a day is one on which nothing comes: there are files of days, none of this one, and nothing that is there every day, such
     * as a table, or that must be there.
     */
    public boolean isSilent(LoadDate day, List<Definition> wanted) {
        Staging staging = new Staging(warehouse, project.folder());
        Set<Input> inputs = Project.inputsOf(wanted);
        List<Input> sources =
                inputs.stream().filter(input -> input.parts().isEmpty()).toList();
        return inputs.stream().noneMatch(Input::required)
                && sources.stream().anyMatch(Staging::isOfDays)
                && sources.stream().allMatch(input -> input.origin() instanceof Input.Files)
                && sources.stream().filter(Staging::isOfDays).noneMatch(input -> staging.isThere(input, day));
    }

    /** Whether there is something for a table; what cannot be read is there, and the load says what is wrong with it. */
    private boolean isDelivered(Definition definition, LoadDate day) {
        Staging staging = new Staging(warehouse, project.folder());
        TableLoad load = new TableLoads(project, warehouse, Known.of(warehouse)).of(definition);
        return Stream.concat(load.input().stream(), load.feeds().stream().flatMap(feed -> feed.input().stream()))
                .anyMatch(input -> {
                    try {
                        return staging.delivery(input, day, Earlier.NOTHING).isPresent();
                    } catch (ZeitkammerException unreadable) {
                        return true;
                    }
                });
    }

    /** Whether nothing was delivered to a fact, and facts that stood were only kept right. */
    private static boolean wasOnlyKept(TableEntry entry) {
        return entry.count("staged") == 0 && entry.count("healed") + entry.count("followed") > 0;
    }

    private static Set<String> tables(List<LoadEntry> loads, Predicate<TableEntry> which) {
        return loads.stream()
                .flatMap(load -> load.tables().stream())
                .filter(which)
                .map(TableEntry::table)
                .collect(Collectors.toSet());
    }

    private boolean isNewest(Definition definition, LoadDate day) {
        Optional<String> newest = Known.of(warehouse).newestDate(definition.table());
        return newest.isEmpty() || newest.get().compareTo(day.toString()) <= 0;
    }
}
