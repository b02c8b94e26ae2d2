package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.AssertedRows;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import dev.zeitkammer.step.TableLoad.Prepared;
import java.time.Clock;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Prepares the load of a table from its newest delivery, without running it. */
public final class Preview {

    private final Project project;
    private final Warehouse warehouse;
    private final Clock clock;

    private final boolean looks;
    private final Optional<LoadDate> date;

    public Preview(Project project, Warehouse warehouse, Clock clock) {
        this(project, warehouse, clock, false, Optional.empty());
    }

    private Preview(Project project, Warehouse warehouse, Clock clock, boolean looks, Optional<LoadDate> date) {
        this.project = project;
        this.warehouse = warehouse;
        this.clock = clock;
        this.looks = looks;
        this.date = date;
    }

    /** The same of the deliveries of a load date, instead of the newest ones. */
    public Preview on(Optional<LoadDate> day) {
        return new Preview(project, warehouse, clock, looks, day);
    }

    /** A preview that also looks at what a load would stumble over. */
    static Preview withALook(Project project, Warehouse warehouse, Clock clock) {
        return new Preview(project, warehouse, clock, true, Optional.empty());
    }

    /**
     * A load that is ready to run.
     *
     * @param staged the staged rows; empty for a table that makes its own
     * @param feeds the loads of the table's feeds that have a delivery
     * @param upkeep what keeps rows right that stand already
     * @param stumbles what a load would stumble over in the delivery; only when asked for
     */
    public record Ready(
            Definition definition,
            Optional<StagedRows> staged,
            Prepared prepared,
            List<Ready> feeds,
            Optional<Plan> upkeep,
            List<String> stumbles) {}

    /**
     * Stages the newest delivery and prepares its load; empty when there is no delivery.
     *
     * @throws dev.zeitkammer.definition.DefinitionException when definition and delivery do not go together
     */
    public Optional<Ready> of(Definition definition) {
        TableLoad load = new TableLoads(project, warehouse, Known.of(warehouse)).of(definition);
        Optional<Ready> own = ready(load);
        if (own.isEmpty()) {
            return own;
        }
        List<Ready> feeds =
                load.feeds().stream().flatMap(feed -> ready(feed).stream()).toList();
        return own.map(ready ->
                new Ready(definition, ready.staged(), ready.prepared(), feeds, load.upkeep(stamp()), ready.stumbles()));
    }

    private Optional<Ready> ready(TableLoad load) {
        Optional<Input> input = load.input();
        if (input.isEmpty()) {
            return Optional.of(new Ready(
                    load.definition(),
                    Optional.empty(),
                    load.prepare(Optional.empty(), stamp()),
                    List.of(),
                    Optional.empty(),
                    List.of()));
        }
        Staging staging = new Staging(warehouse, project.folder());
        Optional<Delivery> waiting = date.isPresent()
                ? staging.delivery(input.get(), date.get(), earlier())
                : staging.newest(input.get(), earlier());
        return waiting.map(delivery -> {
            Wanted wanted = new Wanted(delivery);
            load.want(wanted);
            AssertedRows.want(input.get(), wanted);
            wanted.throwIfMissing();
            StagedRows staged = staging.stage(delivery, wanted, earlier());
            Prepared prepared = load.prepare(Optional.of(staged), stamp());
            return new Ready(
                    load.definition(),
                    Optional.of(staged),
                    prepared,
                    List.of(),
                    Optional.empty(),
                    stumbles(load, staged, prepared));
        });
    }

    private List<String> stumbles(TableLoad load, StagedRows staged, Prepared prepared) {
        return looks && !prepared.plans().isEmpty()
                ? new DeliveryCheck(warehouse, clock)
                        .of(load.definition(), staged, prepared.plans().get(0))
                : List.of();
    }

    /** Why an input has no delivery. */
    public String missing(Input input) {
        return new Staging(warehouse, project.folder()).missing(input, date);
    }

    private Earlier earlier() {
        return Earlier.withoutWaiting(Known.of(warehouse)::decidedTypes, Map.of());
    }

    private boolean hasBooks() {
        return new Journal(warehouse).hasBooks();
    }

    private Stamp stamp() {
        long load = hasBooks() ? new Books(warehouse).nextLoad() : 1;
        return new Stamp(
                load,
                date.orElseGet(() -> LoadDate.of(LocalDate.now(clock))),
                LocalDateTime.now(clock).truncatedTo(ChronoUnit.MICROS));
    }
}
