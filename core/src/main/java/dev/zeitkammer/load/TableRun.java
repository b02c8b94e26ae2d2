package dev.zeitkammer.load;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.dimension.DimensionLoad;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.load.SetAsideReading.NotLoaded;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.LookupTally;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Sieve;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import dev.zeitkammer.step.TableLoad;
import dev.zeitkammer.step.TableLoad.Prepared;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Supplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** One table's part of a load: stage, then everything else as one transaction. */
final class TableRun {

    private static final long LARGE = 100_000;
    private static final Pattern WRITTEN = Pattern.compile("^[a-z ]+\"?(zk_\\w+)");
    private static final List<String> SCRATCH =
            List.of("zk_staged_waited", "zk_read", "zk_made", "zk_match", "zk_keys", "zk_held", "zk_met", "zk_changes");

    private final Project project;
    private final Warehouse warehouse;
    private final LoadListener listener;
    private final Definition definition;
    private final Stamp stamp;
    private final Books books;
    private final Staging staging;
    private final SetAsideReading aside;
    private final List<ChangedAttribute> changed = new ArrayList<>();
    private final Map<String, Boolean> conditions = new HashMap<>();
    private @Nullable StagedRows staged;
    private @Nullable Earlier earlier;

    TableRun(Project project, Warehouse warehouse, LoadListener listener, Definition definition, Stamp stamp) {
        this.project = project;
        this.warehouse = warehouse;
        this.listener = listener;
        this.definition = definition;
        this.stamp = stamp;
        this.books = new Books(warehouse);
        this.staging = new Staging(warehouse, project.folder());
        this.aside = new SetAsideReading(warehouse, stamp, definition.table());
    }

    /** The values that change, known after a rehearsal. */
    List<ChangedAttribute> changed() {
        return changed;
    }

    static double secondsSince(long began) {
        return (System.nanoTime() - began) / 1_000_000 / 1000.0;
    }

    /** A delivery to the table; of a table that makes its own rows, none. */
    private record Part(TableLoad load, Optional<Delivery> delivery, Earlier earlier) {}

    TableEntry run(Request request, long began) {
        TableLoad load = new TableLoads(project, warehouse).of(definition);
        refuseOlderDate(load);
        refuseDateAhead(load, request);
        List<Part> parts = parts(load);
        if (parts.isEmpty()) {
            return withoutDelivery(load, request, began);
        }
        if (parts.get(0).delivery().isPresent()) {
            dimensionsStand(request);
        }
        Prepared first = prepared(parts.get(0));
        try {
            return inTransaction(request, () -> transaction(load, parts, first, request, began));
        } finally {
            if (!request.rehearsal()) {
                dropLargeScratch();
            }
        }
    }

    private <T> T inTransaction(Request request, Supplier<T> work) {
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
                        new Step.Write("stage", "Read " + delivery.shown() + " and convert its values.", "")));
        warehouse.expect(part.delivery().map(Delivery::bytes).orElse(0L));
        staged = part.delivery()
                .map(delivery -> staging.stage(delivery, wanted(part.load(), delivery), part.earlier()))
                .orElse(null);
        if (staged != null) {
            listener.notes(definition.table(), staged.notes());
        }
        return part.load().prepare(Optional.ofNullable(staged), stamp);
    }

    private Earlier earlier() {
        if (earlier == null) {
            earlier = new Earlier(
                    books::decidedTypes,
                    books.marks(definition.table()),
                    "",
                    input -> books.waitingRows(definition.table(), input));
        }
        return earlier;
    }

    /** Facts that are there may have to be kept right although nothing is delivered to them. */
    private TableEntry withoutDelivery(TableLoad load, Request request, long began) {
        Optional<Plan> upkeep = warehouse.has(definition.table()) ? load.upkeep(stamp) : Optional.empty();
        if (upkeep.isPresent()) {
            TableEntry kept = inTransaction(request, () -> {
                run(upkeep.get().steps(), request);
                warehouse.compareWritten();
                run(upkeep.get().application(), request);
                Tally tally = new Tally();
                tally(tally, upkeep.get());
                return tally.anyCount() ? entered(load, tally, began) : skipped(load, began);
            });
            return kept;
        }
        return skipped(load, began);
    }

    /** Gives memory back before the next table; small scratch tables are simply replaced. */
    private void dropLargeScratch() {
        boolean large = staged != null && warehouse.number("select count(*) from " + StagedRows.TABLE) > LARGE;
        if (large) {
            SCRATCH.forEach(warehouse::dropScratch);
        }
    }

    private void refuseOlderDate(TableLoad load) {
        Optional<String> newest = load.followsLoadDate() ? books.newestDate(definition.table()) : Optional.empty();
        if (newest.isPresent() && newest.get().compareTo(stamp.date().toString()) > 0) {
            throw new GuardException(definition.table() + " was loaded for " + newest.get() + " already, and "
                    + stamp.date() + " is older; without an effective column the load date orders its history, so"
                    + " older deliveries cannot be loaded afterwards");
        }
    }

    /** Where the load date orders the history, nothing could be loaded any more until the day that was named. */
    private void refuseDateAhead(TableLoad load, Request request) {
        LocalDate tomorrow = stamp.at().toLocalDate().plusDays(1);
        if (load.followsLoadDate()
                && stamp.date().day().isAfter(tomorrow)
                && !request.waived().contains(Request.AHEAD)) {
            throw new GuardException(definition.table() + " would be loaded for " + stamp.date()
                    + ", which is ahead of today; the load date orders its history, so that no earlier day could be loaded"
                    + " afterwards. If that is meant, load with " + Request.AHEAD);
        }
    }

    private TableEntry skipped(TableLoad load, long began) {
        String missing = staging.missing(load.input().orElseThrow(), Optional.of(stamp.date()));
        TableEntry entry = TableEntry.without(
                definition.table(), load.kind(), LoadStatus.SKIPPED, secondsSince(began), "no delivery: " + missing);
        books.enter(stamp.load(), entry);
        return entry;
    }

    /** A dimension to which nothing was delivered yet has its reserved members at least, for facts to point at. */
    private void dimensionsStand(Request request) {
        for (String name : definition.dependsOn()) {
            Definition dimension = project.definition(name);
            if (!warehouse.has(dimension.table())) {
                TableLoad load = new TableLoads(project, warehouse).of(dimension);
                if (!(load instanceof DimensionLoad members)
                        || ((Dimension) dimension).kind() != Dimension.Kind.MEMBERS
                        || !request.align()) {
                    throw new ZeitkammerException("Cannot look up " + dimension.table()
                            + ": it has never been loaded; load it first, or load everything at once");
                }
                Prepared empty = members.undelivered(stamp);
                inTransaction(request, () -> {
                    empty.alignment().statements().forEach(warehouse::execute);
                    run(empty.seeds(), request);
                    return empty;
                });
            }
        }
    }

    private static Wanted wanted(TableLoad load, Delivery delivery) {
        Wanted wanted = new Wanted(delivery);
        load.want(wanted);
        wanted.throwIfMissing();
        return wanted;
    }

    private TableEntry transaction(TableLoad load, List<Part> parts, Prepared first, Request request, long began) {
        align(first.alignment(), request.align());
        books.noteAdded(definition.table(), first.alignment().added(), stamp.load());
        listener.notes(definition.table(), first.alignment().notes());
        run(first.seeds(), request);
        Tally tally = new Tally();
        run(first.plan(), request, tally);
        for (Part part : parts.subList(1, parts.size())) {
            run(prepared(part).plan(), request, tally);
        }
        load.upkeep(stamp).ifPresent(plan -> run(plan, request, tally));
        return entered(load, tally, began);
    }

    private void run(Plan plan, Request request, Tally tally) {
        conditions.clear();
        run(plan.steps(), request);
        warehouse.compareWritten();
        if (request.rehearsal()) {
            changed.addAll(new ChangeReading(warehouse, definition.table()).of(plan.differences()));
        }
        run(plan.application(), request);
        if (staged != null) {
            staged.unchanged();
        }
        tally(tally, plan);
    }

    private void align(Alignment alignment, boolean allowed) {
        if (!allowed && !alignment.statements().isEmpty()) {
            throw new ZeitkammerException("The table " + definition.table()
                    + " does not fit its definition, and --no-align was given; see: zeitkammer align --show");
        }
        alignment.statements().forEach(warehouse::execute);
    }

    private void run(List<Step> steps, Request request) {
        for (Step step : steps) {
            listener.step(definition.table(), step);
            try {
                run(step, request);
            } catch (WarehouseException failed) {
                throw new WarehouseException(
                        "Cannot load " + definition.table() + ": step \"" + step.name() + "\": " + failed.getMessage(),
                        failed);
            }
        }
    }

    /** A condition is asked once, until a step writes what it asks about. */
    private boolean isDue(Optional<String> onlyIf) {
        return onlyIf.isEmpty() || conditions.computeIfAbsent(onlyIf.get(), asked -> warehouse.number(asked) != 0);
    }

    private void forget(String sql) {
        Matcher written = WRITTEN.matcher(sql);
        if (written.find()) {
            conditions.keySet().removeIf(asked -> asked.contains(written.group(1)));
        }
    }

    private void run(Step step, Request request) {
        if (!isDue(step.onlyIf())) {
            return;
        }
        if (step instanceof Step.Guard guard) {
            if (guard.waiver().filter(request.waived()::contains).isPresent()) {
                return;
            }
            warehouse.query(guard.sql(), guard.words()::apply).stream()
                    .findFirst()
                    .ifPresent(words -> {
                        throw new GuardException(words);
                    });
        } else if (step instanceof Step.Write write) {
            warehouse.execute(write.sql(), write.whenFailed());
            forget(write.sql());
        }
    }

    /** Reads off what a plan did. */
    private void tally(Tally tally, Plan plan) {
        StagedRows rows = plan.setAside().equals(Plan.NOTHING.setAside()) ? null : staged;
        List<SetAsideRow> set = new ArrayList<>(rows == null ? List.of() : unusable());
        tally.add(counts(plan, set.size(), rows == null ? 0 : rows.waiting().size()));
        if (rows != null) {
            NotLoaded notLoaded = aside.of(plan, rows);
            set.addAll(notLoaded.setAside());
            books.keep(set);
            new DeliveryBooks(project, warehouse, definition, stamp).enter(rows, set, notLoaded.waiting());
        }
        plan.highestKey()
                .map(warehouse::number)
                .filter(highest -> highest > 0)
                .ifPresent(highest -> books.noteHighestKey(definition.table(), highest));
        warehouse.query(plan.written(), row -> tally.written(row.number(1), row.number(2)));
        plan.lookups().ifPresent(lookups -> tally(tally, lookups));
    }

    private void tally(Tally tally, LookupTally lookups) {
        Map<String, Map<String, Long>> found = new LinkedHashMap<>();
        Set<String> unmatched = new TreeSet<>();
        warehouse.query(lookups.counts(), row -> {
            String role = String.valueOf(row.text(1));
            String word = String.valueOf(row.text(2));
            if (row.number(3) > 0 && lookups.nobody().contains(word)) {
                unmatched.add(role);
            }
            return found.computeIfAbsent(role, first -> new LinkedHashMap<>()).merge(word, row.number(3), Long::sum);
        });
        tally.add(found);
        lookups.unmatched()
                .apply(unmatched)
                .ifPresent(query -> tally.add(warehouse.query(
                        query,
                        row -> new UnmatchedValue(
                                String.valueOf(row.text(1)),
                                String.valueOf(row.text(2)),
                                String.valueOf(row.text(3)),
                                row.number(4)))));
    }

    /** Compares what stands in the table with the number and the moment of this load with what the plans say was written. */
    private void compareTarget(Tally tally) {
        String inserted = isOfThisLoad(Housekeeping.INSERTED_BY, Housekeeping.INSERTED_AT);
        String updated = isOfThisLoad(Housekeeping.UPDATED_BY, Housekeeping.UPDATED_AT);
        String members = definition instanceof Dimension dimension
                ? " where " + warehouse.dialect().quote(dimension.keyColumn()) + " >= 0"
                : "";
        warehouse.query(
                "select count(case when %s then 1 end), count(case when %s and not (%s) then 1 end) from %s%s"
                        .formatted(inserted, updated, inserted, warehouse.table(definition.table()), members),
                row -> {
                    tally.compare(row.number(1), row.number(2));
                    return true;
                });
    }

    private String isOfThisLoad(Housekeeping by, Housekeeping at) {
        Dialect dialect = warehouse.dialect();
        return dialect.quote(project.conventions().column(by)) + " = " + stamp.load() + " and "
                + dialect.quote(project.conventions().column(at)) + " = " + dialect.timestamp(stamp.at());
    }

    private boolean isStamped() {
        String name = project.conventions().column(Housekeeping.INSERTED_BY);
        return warehouse.columns(definition.table()).stream()
                .anyMatch(column -> column.name().equals(name));
    }

    private TableEntry entered(TableLoad load, Tally tally, long began) {
        warehouse.compareWritten();
        if (tally.anyWritten() && isStamped()) {
            compareTarget(tally);
        }
        TableEntry entry = tally.entry(definition.table(), load.kind(), secondsSince(began));
        books.enter(stamp.load(), entry);
        return entry;
    }

    private Map<String, Map<String, Long>> counts(Plan plan, long unusable, long waiting) {
        Map<String, Long> own = new LinkedHashMap<>();
        for (Counting counting : plan.counts()) {
            if (isDue(counting.onlyIf())) {
                count(counting, own);
            }
        }
        own.computeIfPresent("staged", (name, rows) -> rows + unusable + waiting);
        own.computeIfPresent("setAside", (name, rows) -> rows + unusable);
        own.computeIfPresent(Sieve.WAITING, (name, rows) -> rows + waiting);
        return Map.of("", own);
    }

    private void count(Counting counting, Map<String, Long> numbers) {
        warehouse.query(counting.sql(), row -> {
            for (int index = 0; index < counting.names().size(); index++) {
                numbers.merge(counting.names().get(index), row.number(index + 1), Long::sum);
            }
            return true;
        });
    }

    /** Keeps what of the delivery is no row; known even when the load of the table failed. */
    void keepUnusable() {
        if (staged != null) {
            List<SetAsideRow> rows = unusable();
            books.keep(rows);
            new DeliveryBooks(project, warehouse, definition, stamp)
                    .keepForms(rows.stream().map(SetAsideRow::file), staged);
        }
    }

    private List<SetAsideRow> unusable() {
        return staged == null ? List.of() : aside.unusable(staged);
    }
}
