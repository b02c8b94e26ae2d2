package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.ExtraRun;
import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.extra.ExtraSteps;
import dev.zeitkammer.lookup.OthersTables;
import dev.zeitkammer.publish.Publishing;
import dev.zeitkammer.publish.Publishing.Published;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.Stamp;
import java.time.Clock;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Loads the tables of a project: dimensions first, facts after, each in a transaction of its own. A table that fails changes
 * nothing; what depends on it is not loaded, and the rest is.
 */
public final class Loader {

    private final Project project;
    private final Warehouse warehouse;
    private final LoadListener listener;
    private final Clock clock;
    private final Books books;
    private final List<ChangedAttribute> changed = new ArrayList<>();
    private final List<ComingRow> coming = new ArrayList<>();

    public Loader(Project project, Warehouse warehouse, LoadListener listener, Clock clock) {
        this.project = project;
        this.warehouse = warehouse;
        this.listener = listener;
        this.clock = clock;
        this.books = new Books(warehouse);
        OthersTables.standIn(project, warehouse);
    }

    /**
     * What to load.
     *
     * @param date the load date, or its moment where a day has several loads
     * @param tables the tables; empty: all
     * @param withDimensions whether the dimensions of the named facts are loaded too
     * @param align whether tables are made to fit their definitions
     * @param waived the guards that are to let pass, by the names of their options
     * @param rehearsal whether the values that change are read off, inside a transaction that the caller takes back
     * @param jobs how many independent dimensions are loaded side by side, each over a connection of its own
     * @param mended files to load into the one table instead of its delivery
     * @param program the version of the program, where a delivery that is byte for byte the last one need not be read; empty:
     *     everything is read
     */
    public record Request(
            LoadDate date,
            List<String> tables,
            boolean withDimensions,
            boolean align,
            Set<String> waived,
            boolean rehearsal,
            int jobs,
            Optional<Mended> mended,
            Optional<String> program) {

        /** The option of a load that lets dates beyond tomorrow pass. */
        public static final String AHEAD = "--ahead";

        /** Tables one after another. */
        public Request(
                LoadDate date,
                List<String> tables,
                boolean withDimensions,
                boolean align,
                Set<String> waived,
                boolean rehearsal) {
            this(date, tables, withDimensions, align, waived, rehearsal, 1, Optional.empty(), Optional.empty());
        }

        public Request {
            tables = List.copyOf(tables);
            waived = Set.copyOf(waived);
        }

        /** The same, but deliveries that are byte for byte the last ones need not be read. */
        public Request news(String version) {
            return new Request(
                    date, tables, withDimensions, align, waived, rehearsal, jobs, mended, Optional.of(version));
        }

        /** The same of one table, out of files. */
        public Request from(Mended files) {
            return new Request(
                    date, tables, withDimensions, align, waived, rehearsal, jobs, Optional.of(files), Optional.empty());
        }

        /** Everything there is of a date. */
        public static Request everything(LoadDate date) {
            return new Request(date, List.of(), false, true, Set.of(), false);
        }
    }

    /** Runs one load and returns its entry in the journal. */
    public LoadEntry load(Request request) {
        List<Definition> selected = selected(request);
        LocalDateTime started = now();
        if (!request.rehearsal()) {
            lock(warehouse);
        }
        books.create();
        long load = books.begin(request.date().toString(), started);
        Stamp stamp = new Stamp(load, request.date(), started);
        ExtraSteps extra =
                new ExtraSteps(project, stamp, request.rehearsal(), note -> listener.notes("", List.of(note)));
        LoadContext context = new LoadContext(project, warehouse, listener, request, stamp, extra);
        extra.before(ExtraStep.LOAD, warehouse);
        if (extra.stopped().isEmpty()) {
            new Keeping(context).keep(kept(selected));
        }
        List<TableEntry> entries = request.jobs() > 1 && !request.rehearsal() && warehouse.worksSideBySide()
                ? new SideBySide(context).load(selected)
                : oneByOne(selected, context);
        publish(entries, context);
        if (overall(entries) == LoadStatus.DONE) {
            extra.after(ExtraStep.LOAD, warehouse);
        }
        resolved(request, entries, stamp);
        LoadStatus status = extra.stopped().isPresent() ? LoadStatus.FAILED : overall(entries);
        LocalDateTime ended = now();
        end(load, status, ended);
        if (status == LoadStatus.FAILED || status == LoadStatus.STOPPED) {
            extra.ended(ExtraStep.LOAD, status, entries, warehouse);
        }
        return new LoadEntry(
                load, request.date().toString(), status, started, Optional.of(ended), entries, extra.runs());
    }

    /** What was set aside before and has been mended is noted as resolved. */
    private void resolved(Request request, List<TableEntry> entries, Stamp stamp) {
        OptionalLong load = request.mended().map(Mended::resolves).orElse(OptionalLong.empty());
        if (load.isPresent() && !request.rehearsal()) {
            entries.stream()
                    .filter(TableEntry::isLoaded)
                    .forEach(entry -> books.noteResolved(load.getAsLong(), entry.table(), stamp.load()));
        }
    }

    /** Only one program loads at a time; a rehearsal keeps nothing and needs no lock. */
    static void lock(Warehouse warehouse) {
        if (!warehouse.lock()) {
            throw new BusyException(
                    "Another load is running in " + warehouse.title()
                            + "; run this again when it has ended, or wait for it" + " with --wait",
                    null);
        }
    }

    /** A load whose connection was lost is entered as cut off by the next one. */
    private void end(long load, LoadStatus status, LocalDateTime ended) {
        try {
            books.end(load, status, ended);
        } catch (WarehouseException unreachable) {
            if (status == LoadStatus.DONE) {
                throw unreachable;
            }
            listener.cause(unreachable);
        }
    }

    private List<TableEntry> oneByOne(List<Definition> selected, LoadContext context) {
        TableLoading loading = new TableLoading(context);
        Set<String> notLoaded = new HashSet<>();
        List<TableEntry> entries = new ArrayList<>();
        for (String phase : List.of(ExtraStep.DIMENSIONS, ExtraStep.FACTS)) {
            List<Definition> tables = selected.stream()
                    .filter(definition -> definition instanceof Dimension == phase.equals(ExtraStep.DIMENSIONS))
                    .toList();
            entries.addAll(loading.phase(phase, tables, () -> loaded(tables, loading, notLoaded)));
        }
        changed.addAll(loading.changed());
        coming.addAll(loading.coming());
        return entries;
    }

    /** The inputs of some tables that keep their latest rows, those that others are made of first. */
    private static Set<Input> kept(List<Definition> selected) {
        Set<Input> kept = new LinkedHashSet<>();
        for (Definition definition : selected) {
            definition.from().ifPresent(input -> collectKept(input, kept));
            if (definition instanceof Fact fact) {
                fact.feeds().forEach(feed -> collectKept(feed.from(), kept));
            }
        }
        return kept;
    }

    private static void collectKept(Input input, Set<Input> kept) {
        input.parts().forEach(part -> collectKept(part, kept));
        if (input.keep().isPresent()) {
            kept.add(input);
        }
    }

    /** Writes out the tables that say so and were loaded, or got members that facts made. */
    private void publish(List<TableEntry> entries, LoadContext context) {
        Set<String> loaded = entries.stream()
                .filter(entry -> entry.status() == LoadStatus.DONE)
                .map(TableEntry::table)
                .collect(Collectors.toSet());
        for (Definition definition : project.definitions()) {
            boolean isPublished = definition.publish().isPresent() && !loaded.isEmpty();
            if (isPublished
                    && (loaded.contains(definition.table())
                            || books.lastChange(definition.table())
                                    == context.stamp().load())) {
                context.extra().add(published(definition, context), warehouse);
            }
        }
    }

    private ExtraRun published(Definition definition, LoadContext context) {
        String name = "publish " + definition.table();
        String where = "to " + project.publishedTo(definition.publish().orElseThrow());
        if (context.request().rehearsal()) {
            return new ExtraRun(name, where, ExtraRun.WOULD_RUN, 0, "");
        }
        long began = System.nanoTime();
        try {
            Published published = new Publishing(project, warehouse, clock).publish(definition);
            return new ExtraRun(
                    name,
                    where,
                    published.isWritten() ? ExtraRun.DONE : ExtraRun.UNCHANGED,
                    seconds(began),
                    Counted.rows(published.rows()) + " in " + Counted.of(published.files(), "file"));
        } catch (ZeitkammerException refused) {
            listener.cause(refused);
            return new ExtraRun(name, where, ExtraRun.FAILED, seconds(began), String.valueOf(refused.getMessage()));
        }
    }

    private static double seconds(long began) {
        return (System.nanoTime() - began) / 1_000_000 / 1000.0;
    }

    private List<TableEntry> loaded(List<Definition> tables, TableLoading loading, Set<String> notLoaded) {
        List<TableEntry> entries = new ArrayList<>();
        for (Definition definition : tables) {
            TableEntry entry = loading.load(definition, notLoaded);
            if (!entry.isLoaded()) {
                notLoaded.add(definition.name().text());
            }
            entries.add(entry);
            listener.ended(entry);
        }
        return entries;
    }

    /**
     * What a load would do.
     *
     * @param load its entry, as it would stand in the journal
     * @param changed the values that change, by table, the most frequent attribute of each first
     * @param coming the rows that would come, end or be removed, by table; of a change at most a hundred thousand
     * @param notLoaded the rows that would be set aside
     */
    public record Rehearsal(
            LoadEntry load, List<ChangedAttribute> changed, List<ComingRow> coming, List<SetAsideRow> notLoaded) {

        public Rehearsal {
            changed = List.copyOf(changed);
            coming = List.copyOf(coming);
        }
    }

    /** Runs a load of several tables as one transaction and takes all of it back. */
    public Rehearsal rehearse(LoadDate date, List<String> tables) {
        changed.clear();
        coming.clear();
        Request request = new Request(date, tables, false, true, Set.of(), true);
        return warehouse.rehearse(() -> {
            LoadEntry load = load(request);
            return new Rehearsal(load, changed, coming, notLoaded(load));
        });
    }

    /** A table that failed may have ended the transaction, and with it what can be asked. */
    private List<SetAsideRow> notLoaded(LoadEntry load) {
        return load.status() == LoadStatus.DONE ? new Journal(warehouse).setAside(Optional.of(load.load())) : List.of();
    }

    private LocalDateTime now() {
        return LocalDateTime.now(clock).truncatedTo(ChronoUnit.MICROS);
    }

    private List<Definition> selected(Request request) {
        if (request.tables().isEmpty()) {
            return project.definitions();
        }
        Set<Definition> wanted = new HashSet<>();
        for (String name : request.tables()) {
            Definition definition = project.definition(name);
            wanted.add(definition);
            if (request.withDimensions()) {
                definition.dependsOn().forEach(dimension -> wanted.add(dimension(dimension)));
            }
        }
        return project.definitions().stream()
                .filter(wanted::contains)
                .map(definition ->
                        request.mended().map(mended -> mended.of(definition)).orElse(definition))
                .toList();
    }

    private Dimension dimension(String name) {
        return project.dimensions().stream()
                .filter(dimension -> dimension.name().text().equals(name))
                .findFirst()
                .orElseThrow();
    }

    private static LoadStatus overall(List<TableEntry> entries) {
        Set<LoadStatus> statuses = new HashSet<>();
        entries.forEach(entry -> statuses.add(entry.status()));
        if (statuses.contains(LoadStatus.FAILED)) {
            return LoadStatus.FAILED;
        }
        return statuses.contains(LoadStatus.STOPPED) ? LoadStatus.STOPPED : LoadStatus.DONE;
    }
}
