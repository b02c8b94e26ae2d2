package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.FileStaging;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.staging.StagedFiles;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import dev.zeitkammer.step.TableLoad.Prepared;
import java.time.Clock;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.Map;
import java.util.Optional;

/** Prepares the load of a table from its newest delivery, without running it. */
public final class Preview {

    private final Project project;
    private final Warehouse warehouse;
    private final Clock clock;

    public Preview(Project project, Warehouse warehouse, Clock clock) {
        this.project = project;
        this.warehouse = warehouse;
        this.clock = clock;
    }

    /**
     * A load that is ready to run.
     *
     * @param staged the staged rows; empty for a table that makes its own
     */
    public record Ready(Definition definition, Optional<StagedRows> staged, Prepared prepared) {}

    /**
     * Stages the newest delivery and prepares its load; empty when there is no delivery.
     *
     * @throws dev.zeitkammer.definition.DefinitionException when definition and delivery do not go together
     */
    public Optional<Ready> of(Definition definition) {
        TableLoad load = new TableLoads(project, warehouse).of(definition);
        Optional<Input> input = definition.from();
        if (input.isEmpty()) {
            return Optional.of(new Ready(definition, Optional.empty(), load.prepare(Optional.empty(), stamp())));
        }
        FileStaging staging = new FileStaging(warehouse, project.folder());
        Optional<StagedFiles> delivery = staging.newest(input.get());
        if (delivery.isEmpty()) {
            return Optional.empty();
        }
        Wanted wanted = new Wanted(delivery.get());
        load.want(wanted);
        wanted.throwIfMissing();
        Optional<StagedRows> staged = Optional.of(staging.stage(delivery.get(), wanted, decided(input.get())));
        return Optional.of(new Ready(definition, staged, load.prepare(staged, stamp())));
    }

    private Map<String, SqlType> decided(Input input) {
        return hasBooks() ? new Books(warehouse).decidedTypes(input.name().text()) : Map.of();
    }

    private boolean hasBooks() {
        return new Journal(warehouse).hasBooks();
    }

    private Stamp stamp() {
        long load = hasBooks() ? new Books(warehouse).nextLoad() : 1;
        return new Stamp(
                load,
                LoadDate.of(LocalDate.now(clock)),
                LocalDateTime.now(clock).truncatedTo(ChronoUnit.MICROS));
    }
}
