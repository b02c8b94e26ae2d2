package dev.zeitkammer.load;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.JudgedAssertion;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SetAsideBooks;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.KeptImages;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.past.BeforeImages;
import dev.zeitkammer.past.ImageTable;
import dev.zeitkammer.past.KnownView;
import dev.zeitkammer.seal.Seals;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.staging.WaitingRow;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.AssertedRows;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Plan.Reading;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import dev.zeitkammer.step.TableLoad;
import dev.zeitkammer.step.TableLoad.Complete;
import dev.zeitkammer.step.TableLoad.Prepared;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** One table's part of a load: stage, then everything else as one transaction. */
final class TableRun {

    private static final long LARGE = 100_000;

    private final LoadContext context;
    private final Project project;
    private final Warehouse warehouse;
    private final LoadListener listener;
    private final Request request;
    private final Definition definition;
    private final long began = System.nanoTime();
    private final Stamp stamp;
    private final Known known;
    private final Books books;
    private final Staging staging;
    private final Judging judging;
    private final SetAsideReading aside;
    private final List<ChangedAttribute> changed = new ArrayList<>();
    private final List<ComingRow> coming = new ArrayList<>();
    private @Nullable StagedRows staged;
    private boolean decidedTypes;
    private @Nullable Earlier earlier;
    private @Nullable BeforeImages images;
    private @Nullable Repetition repetition;
    private boolean isRehearsal;
    private boolean isAligned;

    TableRun(LoadContext context, Definition definition, Known known) {
        this.context = context;
        this.project = context.project();
        this.warehouse = context.warehouse();
        this.listener = context.listener();
        this.request = context.request();
        this.stamp = context.stamp();
        this.definition = definition;
        this.known = known;
        this.books = new Books(warehouse);
        this.staging = new Staging(warehouse, project.folder());
        this.judging = new Judging(warehouse, definition, staging, stamp);
        this.aside = new SetAsideReading(warehouse, stamp, definition.table());
    }

    /** The values that change, known after a rehearsal. */
    List<ComingRow> coming() {
        return coming;
    }

    List<ChangedAttribute> changed() {
        return ChangedAttribute.together(changed);
    }

    /** Whether this load decided types that the books did not know before. */
    boolean decidedTypes() {
        return decidedTypes;
    }

    /** Since the table began. */
    double seconds() {
        return (System.nanoTime() - began) / 1_000_000 / 1000.0;
    }

    /** A delivery to the table; of a table that makes its own rows, none. */
    private record Part(TableLoad load, Optional<Delivery> delivery, Earlier earlier) {}

    TableEntry run() {
        TableLoad load = new TableLoads(project, warehouse, known).of(definition);
        LoadGuards guards = guards();
        guards.refuseOlderDate(load);
        guards.refuseDateAhead(load);
        if (warehouse.dialect().viewsHoldColumns()) {
            warehouse.dropNames(); // of the table before
        }
        List<Part> parts = parts(load);
        if (parts.isEmpty()) {
            return withoutDelivery(load);
        }
        if (parts.get(0).delivery().isPresent()) {
            lookedUp().stand();
        }
        repetition = Repetition.of(
                context,
                load,
                known,
                parts.stream().flatMap(part -> part.delivery().stream()).toList());
        Optional<Tally> outcome = repetition.outcome();
        if (outcome.isPresent()) {
            return withoutReading(load, outcome.get());
        }
        Prepared first = prepared(parts.get(0));
        try {
            return inTransaction(() -> transaction(load, parts, first));
        } finally {
            if (!request.rehearsal()) {
                dropLargeScratch();
            }
        }
    }

    /** Reads nothing; facts may have to be kept right all the same. */
    private TableEntry withoutReading(TableLoad load, Tally outcome) {
        return inTransaction(() -> {
            load.upkeep(stamp).ifPresent(plan -> run(plan, outcome, planRun(), null));
            return entered(load, outcome);
        });
    }

    private LoadGuards guards() {
        return new LoadGuards(context, definition, known);
    }

    private <T> T inTransaction(Supplier<T> work) {
        return request.rehearsal() ? work.get() : warehouse.inTransaction(work);
    }

    /** The deliveries there are, that of the table itself first. */
    private List<Part> parts(TableLoad load) {
        List<TableLoad> all = new ArrayList<>(List.of(load));
        all.addAll(load.feeds());
        List<Part> parts = new ArrayList<>();
        for (TableLoad each : all) {
            Earlier left = each == load ? earlier() : earlier().inside("feed");
            Optional<Delivery> delivery = each.input().flatMap(input -> staging.delivery(input, stamp.date(), left));
            if (each.input().isEmpty() || delivery.isPresent()) {
                parts.add(new Part(each, delivery, left));
            }
        }
        boolean feedsOnly = !parts.isEmpty() && parts.get(0).load() != load;
        return feedsOnly && !warehouse.has(definition.table()) ? List.of() : parts;
    }

    private Prepared prepared(Part part) {
        part.delivery()
                .ifPresent(delivery -> listener.step(
                        definition.table(),
                        Step.caption("stage", "Read " + delivery.shown() + " and convert its values.")));
        part.delivery()
                .ifPresent(delivery -> judging.readControls(
                        delivery.input().assertions(), part.earlier().inside("control")));
        warehouse.expect(part.delivery().map(Delivery::bytes).orElse(0L));
        staged = part.delivery()
                .map(delivery -> staging.stage(delivery, wanted(part.load(), delivery), part.earlier()))
                .orElse(null);
        if (staged != null) {
            decidedTypes |= staged.inferred().values().stream().anyMatch(types -> !types.isEmpty());
            listener.notes(definition.table(), staged.notes());
        }
        return part.load().prepare(Optional.ofNullable(staged), stamp);
    }

    private List<WaitingRow> waitingRows(String input) {
        return known.anyWaiting(definition.table(), input)
                ? new SetAsideBooks(warehouse).waitingRows(definition.table(), input)
                : List.of();
    }

    private Earlier earlier() {
        if (earlier == null) {
            earlier = new Earlier(known::decidedTypes, known.marks(definition.table()), "", this::waitingRows);
        }
        return earlier;
    }

    /** Facts that are there may have to be kept right although nothing is delivered to them. */
    private TableEntry withoutDelivery(TableLoad load) {
        Optional<Plan> upkeep = warehouse.has(definition.table()) ? load.upkeep(stamp) : Optional.empty();
        if (upkeep.isPresent()) {
            return inTransaction(() -> {
                Tally tally = new Tally();
                run(upkeep.get(), tally, planRun(), null);
                return tally.anyCount() ? entered(load, tally) : skipped(load);
            });
        }
        return skipped(load);
    }

    /** Gives memory back before the next table; small scratch tables are simply replaced. */
    private void dropLargeScratch() {
        warehouse.dropLargeScratch(LARGE);
        if (warehouse.stager() != warehouse) {
            warehouse.stager().dropLargeScratch(LARGE);
        }
    }

    private TableEntry skipped(TableLoad load) {
        String missing = staging.missing(load.input().orElseThrow(), Optional.of(stamp.date()));
        TableEntry entry = TableEntry.without(
                definition.table(), load.kind(), LoadStatus.SKIPPED, seconds(), "no delivery: " + missing);
        books.enter(stamp.load(), entry);
        return entry;
    }

    private LookedUpDimensions lookedUp() {
        return new LookedUpDimensions(
                context,
                definition,
                known,
                seeds -> inTransaction(() -> {
                    seeds.alignment().statements().forEach(warehouse::execute);
                    planRun().publish(seeds.seeds(), List.of());
                    if (!request.rehearsal()) {
                        new SealKeeping(context, known).seeded(images());
                    }
                    return seeds;
                }));
    }

    private static Wanted wanted(TableLoad load, Delivery delivery) {
        Wanted wanted = new Wanted(delivery);
        load.want(wanted);
        load.input().ifPresent(input -> AssertedRows.want(input, wanted));
        wanted.throwIfMissing();
        return wanted;
    }

    private TableEntry transaction(TableLoad load, List<Part> parts, Prepared first) {
        if (!request.rehearsal()) {
            warehouse.hold(written());
        }
        Seals.asked(definition, warehouse, project.settings().sealed())
                .ifPresent(changed -> listener.notes(definition.table(), List.of(changed)));
        Optional<KnownView> view = definition.knownView().map(name -> new KnownView(warehouse, definition));
        if (!first.alignment().statements().isEmpty()) {
            view.ifPresent(KnownView::drop);
        }
        align(first.alignment(), request.align());
        view.ifPresent(KnownView::make);
        books.noteAdded(definition.table(), first.alignment().added(), stamp.load());
        noteAdopted(first.alignment());
        listener.notes(definition.table(), first.alignment().notes());
        planRun().run(first.guards());
        guards().refuseUnsound(first.alignment());
        context.extra().inside(true, definition.name().text(), warehouse);
        Tally tally = new Tally();
        Optional<Plan> complete = first.complete().flatMap(this::complete);
        if (complete.isPresent()) {
            runAll(List.of(complete.get()), tally);
            return entered(load, tally);
        }
        judgeStaged(parts.get(0), tally);
        runAll(seeded(first), tally);
        for (Part part : parts.subList(1, parts.size())) {
            Prepared prepared = prepared(part);
            judgeStaged(part, tally);
            runAll(prepared.plans(), tally);
        }
        load.upkeep(stamp).ifPresent(plan -> run(plan, tally, planRun(), null));
        return entered(load, tally);
    }

    /** The tables that stand and that the load may write: its own, and those of members that its facts make. */
    private List<String> written() {
        Stream<String> others = definition instanceof Fact fact
                ? fact.lookups().stream()
                        .filter(Lookup::makesMembers)
                        .map(lookup -> lookup.dimension().table())
                : ((Dimension) definition).hierarchy().map(parent -> ((Dimension) definition).bridgeTable()).stream();
        return Stream.concat(Stream.of(definition.table()), others)
                .distinct()
                .filter(warehouse::has)
                .map(warehouse::table)
                .toList();
    }

    private void judgeStaged(Part part, Tally tally) {
        part.delivery()
                .filter(Delivery::isDelivered)
                .ifPresent(delivery -> told(judging.staged(delivery.input(), notRead()), tally));
    }

    /** Rows that were staged and are not among those that the table reads. */
    private long notRead() {
        return staged == null ? 0 : staged.unusable().size() + staged.waiting().size();
    }

    /** An assertion that fails is said at once where it stops nothing. */
    private void told(List<JudgedAssertion> judged, Tally tally) {
        judged.forEach(tally::add);
        listener.notes(
                definition.table(),
                judged.stream()
                        .filter(each -> !each.holds() && each.otherwise().equals("note"))
                        .map(each -> "an assertion of " + definition.table() + " fails: \"" + each.name() + "\" ("
                                + each.asserted() + "): " + each.found())
                        .toList());
    }

    /** Rows that others made are noted before the first load that goes on with them. */
    private void noteAdopted(Alignment alignment) {
        boolean isFirst = known.newestDate(definition.table()).isEmpty();
        if (isFirst && isAdopted(definition, alignment)) {
            books.noteAdopted(definition);
        }
    }

    static boolean isAdopted(Definition definition, Alignment alignment) {
        return definition.conventions().standing() && !alignment.creates();
    }

    /** What must be there before the first row is put into a new table; in one that stands, it is seen to beside other changes. */
    private List<Plan> seeded(Prepared first) {
        List<Plan> plans = new ArrayList<>(first.plans());
        if (first.alignment().creates() || plans.isEmpty()) {
            planRun().publish(first.seeds(), List.of());
        } else {
            plans.set(0, plans.get(0).beginning(first.seeds()));
        }
        return plans;
    }

    private Optional<Plan> complete(Complete complete) {
        listener.step(definition.table(), complete.caption());
        return warehouse.query(complete.query(), row -> complete.plan().apply(row.number(1))).stream()
                .findFirst();
    }

    private BeforeImages images() {
        if (images == null) {
            isRehearsal = request.rehearsal();
            KeptImages kept = request.rehearsal()
                    ? KeptImages.NONE
                    : definition.images().orElse(project.settings().images());
            images = new BeforeImages(new ImageTable(warehouse, definition), stamp.load(), kept);
        }
        return images;
    }

    private PlanRun planRun() {
        return new PlanRun(warehouse, listener, images(), request.waived());
    }

    /** Runs the plans of a delivery; those that follow go by what the first one found. */
    private void runAll(List<Plan> plans, Tally tally) {
        PlanRun run = planRun();
        plans.forEach(plan -> run(plan, tally, run, staged));
    }

    /** @param delivered the staged rows that the plan reads; null where it reads what stands */
    private void run(Plan plan, Tally tally, PlanRun run, @Nullable StagedRows delivered) {
        run.compute(plan);
        if (request.rehearsal() && run.isSo(plan.reading().onlyIf())) {
            changed.addAll(new ChangeReading(warehouse, definition.table())
                    .of(plan.reading().differences()));
            coming.addAll(new ComingRows(warehouse, definition).of(run.due(plan.changes())));
        }
        run.publish(plan);
        if (delivered != null) {
            delivered.unchanged();
        }
        Optional<Reading> due = run.isSo(plan.reading().onlyIf())
                ? Optional.of(plan.reading())
                : plan.reading().otherwise();
        due.ifPresent(reading -> new PlanReading(context, definition, known, run).read(reading, tally, delivered));
    }

    private void align(Alignment alignment, boolean allowed) {
        isAligned = !alignment.statements().isEmpty() && !alignment.creates();
        if (!allowed && !alignment.statements().isEmpty()) {
            throw new ZeitkammerException("The table " + definition.table()
                    + " does not fit its definition, and --no-align was given; see: zeitkammer align --show");
        }
        alignment.statements().forEach(warehouse::execute);
    }

    private TableEntry entered(TableLoad load, Tally tally) {
        warehouse.compareWritten(List.of());
        if (tally.anyWritten()) {
            new WrittenTarget(warehouse, definition, stamp).compare(tally);
        }
        context.extra().inside(false, definition.name().text(), warehouse);
        guards().stopIfTooManyAreSetAside(tally);
        List<Assertion> assertions = definition.demands().assertions();
        judging.readControls(assertions, earlier().inside("control"));
        told(judging.table(), tally);
        if (images != null && !isRehearsal) {
            images.note(known.imagesSince(definition.table()));
            new SealKeeping(context, known).enter(definition, images, isAligned);
        }
        TableEntry entry = tally.entry(definition.table(), load.kind(), seconds());
        books.enter(stamp.load(), entry);
        if (repetition != null) {
            repetition.note();
        }
        return entry;
    }

    /** Keeps what of the delivery is no row; known even when the load of the table failed. */
    void keepUnusable() {
        if (staged != null) {
            List<SetAsideRow> rows = aside.unusable(staged);
            new SetAsideBooks(warehouse).keep(rows);
            new DeliveryBooks(warehouse, known, definition, stamp)
                    .keepForms(rows.stream().map(SetAsideRow::file), staged);
        }
    }
}
