package dev.zeitkammer.load;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Upkeep;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.KeptTable;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** Upkeep of the files behind tables and books, as the engine has it: small files put together, old ones removed. */
public final class Tidying {

    /** For how many days a reader may go back to what a table was, where nothing else is said. */
    public static final int DAYS = 7;

    private final Project project;
    private final Warehouse warehouse;

    public Tidying(Project project, Warehouse warehouse) {
        this.project = project;
        this.warehouse = warehouse;
    }

    /**
     * Tidies up while no load runs; no row changes.
     *
     * @param names tables of the project; none: all of them, those of inputs that are kept or retained, and the books
     * @param days for how many days a reader may go back to what a table was, where the engine keeps that
     * @throws dev.zeitkammer.engine.BusyException when a load is running
     */
    public List<Upkeep> tidy(List<String> names, int days) {
        Loader.lock(warehouse);
        return warehouse.tidy(tables(names), days);
    }

    /** How much room everything takes on disk that {@link #tidy} would put in order; nothing is changed. */
    public Upkeep.Size size() {
        return warehouse.size(tables(List.of()));
    }

    private List<String> tables(List<String> names) {
        List<String> tables = new ArrayList<>();
        for (Definition definition : names.isEmpty()
                ? project.definitions()
                : names.stream().map(project::definition).toList()) {
            add(tables, definition.table());
            if (definition instanceof Dimension dimension) {
                add(tables, dimension.bridgeTable());
            }
        }
        if (names.isEmpty()) {
            tables.addAll(ofInputs());
            tables.addAll(warehouse.bookTables());
        }
        return tables;
    }

    /** Tidies everything up where the project wants it after this load. */
    public Optional<List<Upkeep>> after(long load) {
        boolean isDue =
                project.settings().tidyEvery() > 0 && load % project.settings().tidyEvery() == 0;
        return isDue ? Optional.of(tidy(List.of(), DAYS)) : Optional.empty();
    }

    /** The tables of inputs whose rows are kept or retained. */
    private List<String> ofInputs() {
        return project.allInputs().stream()
                .filter(input -> input.keep().isPresent() || input.retain())
                .map(input -> new KeptTable(input, warehouse))
                .flatMap(kept -> Stream.of(kept, kept.away()))
                .filter(KeptTable::stands)
                .map(KeptTable::quoted)
                .toList();
    }

    private void add(List<String> tables, String table) {
        if (warehouse.has(table)) {
            tables.add(warehouse.table(table));
        }
    }
}
