package dev.zeitkammer.load;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.books.Books;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.Preview.Ready;
import dev.zeitkammer.seal.Seals;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.step.Change;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** Makes the tables fit the definitions, outside of any load. */
public final class Aligner {

    private final Project project;
    private final Warehouse warehouse;
    private final Clock clock;
    private Optional<LoadDate> date = Optional.empty();

    public Aligner(Project project, Warehouse warehouse, Clock clock) {
        this.project = project;
        this.warehouse = warehouse;
        this.clock = clock;
    }

    /**
     * What aligning a table takes, or took.
     *
     * @param statements the SQL; empty when the table fits
     * @param notes what the reader should know
     */
    public record Aligned(String table, List<String> statements, List<String> notes) {}

    /** Goes by the deliveries of a load date, instead of the newest ones. */
    public Aligner on(Optional<LoadDate> day) {
        date = day;
        return this;
    }

    /** What would be done; changes nothing. */
    public List<Aligned> show() {
        List<Aligned> all = new ArrayList<>();
        for (Definition definition : project.definitions()) {
            all.add(new Preview(project, warehouse, clock)
                    .on(date)
                    .of(definition)
                    .map(this::described)
                    .orElseGet(() -> undecided(definition)));
        }
        return all;
    }

    /** Does it, one transaction a table. */
    public List<Aligned> align() {
        Loader.lock(warehouse);
        new Books(warehouse).create();
        List<Aligned> all = new ArrayList<>();
        for (Definition definition : project.definitions()) {
            Optional<Ready> ready =
                    new Preview(project, warehouse, clock).on(date).of(definition);
            all.add(ready.map(this::applied).orElseGet(() -> undecided(definition)));
        }
        return all;
    }

    private Aligned applied(Ready ready) {
        Alignment alignment = ready.prepared().alignment();
        return warehouse.inTransaction(() -> {
            alignment.statements().forEach(warehouse::execute);
            Books books = new Books(warehouse);
            books.noteAdded(ready.definition().table(), alignment.added(), books.nextLoad());
            if (TableRun.isAdopted(ready.definition(), alignment)) {
                books.noteAdopted(ready.definition());
            }
            warehouse.publish(seeds(ready).toList(), List.of());
            if (!alignment.statements().isEmpty()) {
                new Seals(warehouse, books.nextLoad() - 1).anew(ready.definition());
            }
            return described(ready);
        });
    }

    private static Stream<TableChange> seeds(Ready ready) {
        return ready.prepared().seeds().stream().map(Change::what);
    }

    private Aligned described(Ready ready) {
        Alignment alignment = ready.prepared().alignment();
        List<String> statements = new ArrayList<>(alignment.statements());
        if (alignment.creates()) {
            seeds(ready).map(seed -> seed.sql(warehouse.dialect())).forEach(statements::add);
        }
        return new Aligned(ready.definition().table(), statements, alignment.notes());
    }

    private static Aligned undecided(Definition definition) {
        return new Aligned(
                definition.table(), List.of(), List.of("no delivery yet that could decide its types; nothing done"));
    }
}
