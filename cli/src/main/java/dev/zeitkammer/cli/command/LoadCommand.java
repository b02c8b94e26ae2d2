package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.LoadOutput;
import dev.zeitkammer.cli.output.TidyOutput;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.members.DimensionGuards;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.event.EventSink;
import dev.zeitkammer.event.LoadMetrics;
import dev.zeitkammer.event.OpenEvents;
import dev.zeitkammer.event.OpenEvents.Told;
import dev.zeitkammer.lineage.DefinitionLineage;
import dev.zeitkammer.lineage.Headers;
import dev.zeitkammer.load.CatchUp;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.load.Mended;
import dev.zeitkammer.load.Tidying;
import dev.zeitkammer.staging.LoadDate;
import java.io.IOException;
import java.nio.file.Path;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer load}. */
@Command(
        name = "load",
        description = {
            "Loads what is staged: dimensions first, facts after, each table in one transaction.",
            "A table that fails changes nothing; what depends on it is not loaded, and the rest is. Loading again after any"
                    + " failure is safe."
        })
final class LoadCommand extends BaseCommand {

    /** So many days that are left out are told by their dates. */
    private static final int MOST_TOLD = 7;

    @Parameters(arity = "0..*", paramLabel = "TABLE", description = "The tables to load (default: all).")
    private List<String> tables = new ArrayList<>();

    @ArgGroup(multiplicity = "0..1")
    private Dates dates = new Dates();

    /** One load date, or a span of them. */
    static final class Dates {
        @Option(
                names = "--date",
                paramLabel = "D",
                description =
                        "The load date, such as 2026-03-01, or its moment, such as 2026-03-01T14:00 (default: today).")
        private @Nullable LoadDate date;

        @Option(
                names = "--dates",
                paramLabel = "A..B",
                description =
                        "One load a day from A to B, without the days that are loaded already; ends at the first day that"
                                + " fails, and goes on there when run again.")
        private @Nullable String span;
    }

    @Option(
            names = "--again",
            description =
                    "Reads what the last load of a table has read already, byte for byte; with --dates, loads days that are"
                            + " loaded already once more.")
    private boolean again;

    @Option(names = "--with-dimensions", description = "Loads the dimensions of the named facts too.")
    private boolean withDimensions;

    @Option(names = "--no-align", description = "Refuses tables that do not fit instead of making them fit.")
    private boolean noAlign;

    @Option(
            names = DimensionGuards.ACCEPT_ABSENT,
            description = "Lets a full extract pass in which more members are absent than the limit allows.")
    private boolean acceptAbsent;

    @Option(
            names = "--jobs",
            paramLabel = "N",
            description =
                    "Loads up to N independent dimensions side by side, each over a connection of its own (default: 1).")
    private int jobs = 1;

    @Option(
            names = Request.AHEAD,
            description = "Lets a date beyond tomorrow pass for tables whose history the load date orders.")
    private boolean ahead;

    @Option(
            names = "--from",
            arity = "1..*",
            paramLabel = "FILE",
            description =
                    "Loads the rows of these files into the one table, such as rows that were set aside and are mended, instead"
                            + " of its delivery: beside high-water marks, and as a part that says nothing of other rows.")
    private List<Path> from = new ArrayList<>();

    @Option(
            names = "--resolves",
            paramLabel = "LOAD",
            description = "With --from: the load whose rows of the table, set aside then, are resolved by this one.")
    private @Nullable Long resolves;

    @Option(
            names = "--log",
            paramLabel = "FILE",
            description = "Adds what happens to a file, a line of JSON an event, for machines.")
    private @Nullable Path log;

    private Set<String> waived() {
        Set<String> waived = new HashSet<>();
        if (acceptAbsent) {
            waived.add(DimensionGuards.ACCEPT_ABSENT);
        }
        if (ahead) {
            waived.add(Request.AHEAD);
        }
        return waived;
    }

    @Override
    int run() {
        checkJobs();
        checkMended();
        Project project = project();
        tables.forEach(project::definition);
        List<LoadDate> days = days();
        return withWarehouse(project, Access.WRITE, warehouse -> {
            checkResolved(project, warehouse);
            List<LoadEntry> loads = saying(() -> load(project, warehouse, days));
            if (format() != Format.TEXT) {
                new LoadOutput(output()).write(loads, dates.span != null, format());
            }
            if (options().verbose()) {
                output().aside(warehouse.statements() + " statements were given to " + warehouse.title());
            }
            return loads.isEmpty() ? ExitStatus.DONE : status(loads.get(loads.size() - 1));
        });
    }

    /** Whoever ends a load by a signal is told what stands. */
    private List<LoadEntry> saying(Supplier<List<LoadEntry>> work) {
        Thread last = new Thread(
                () -> output().aside("Ended by a signal. Every table that was reported done stands; the one in"
                        + " hand is as it was before. Load again to go on."));
        Runtime.getRuntime().addShutdownHook(last);
        List<LoadEntry> loads;
        try {
            loads = work.get();
        } finally {
            forget(last);
        }
        return loads;
    }

    private static void forget(Thread last) {
        try {
            Runtime.getRuntime().removeShutdownHook(last);
        } catch (IllegalStateException ending) {
            // it speaks now
        }
    }

    private void checkJobs() {
        if (jobs < 1) {
            throw new UsageException("--jobs is " + jobs + "; expected 1 or more");
        }
    }

    private void checkMended() {
        if (from.isEmpty() && resolves != null) {
            throw new UsageException("--resolves says what --from mends; name the files with --from");
        }
        if (!from.isEmpty() && (tables.size() != 1 || withDimensions || dates.span != null)) {
            throw new UsageException("--from loads one table for one date: zeitkammer load TABLE --from FILE");
        }
    }

    private void checkResolved(Project project, Warehouse warehouse) {
        if (resolves == null) {
            return;
        }
        Journal journal = new Journal(warehouse);
        String table = project.definition(tables.get(0)).table();
        journal.load(resolves);
        if (journal.setAside(Optional.of(resolves)).stream()
                .noneMatch(row -> row.table().equals(table))) {
            throw new UsageException("Load " + resolves + " set no rows of " + table
                    + " aside; see: zeitkammer set-aside --table " + table);
        }
    }

    private Optional<Mended> mended() {
        return from.isEmpty()
                ? Optional.empty()
                : Optional.of(new Mended(
                        from.stream().map(Path::toAbsolutePath).toList(),
                        resolves == null ? OptionalLong.empty() : OptionalLong.of(resolves)));
    }

    @Override
    Set<Path> alsoRead() {
        return from.stream().map(file -> file.toAbsolutePath().getParent()).collect(Collectors.toSet());
    }

    /** What the load came to, for whoever collects it; the load stands whatever becomes of the file. */
    private void measured(Project project, Warehouse warehouse, LoadEntry load, Word file) {
        try {
            LoadMetrics.write(
                    project.folder().resolve(file.text()),
                    LoadMetrics.text(
                            project.name(),
                            project.settings().use(),
                            load,
                            new Journal(warehouse).newestDone().flatMap(LoadEntry::ended)));
        } catch (IOException | ZeitkammerException refused) {
            output().aside("Note: cannot write the metrics to " + file + ": " + refused.getMessage());
        }
    }

    private List<LoadEntry> load(Project project, Warehouse warehouse, List<LoadDate> days) {
        Narrator narrator = new Narrator(output(), options(), warehouse);
        Optional<EventSink> sink = project.settings().events().map(events -> new EventSink(events, project.folder()));
        Optional<Told> told = sink.map(events -> new Told(
                project,
                project.warehouse(options().warehouse()),
                DefinitionLineage.of(project, Headers.newest(project, warehouse))));
        Optional<LoadLog> lines = Optional.ofNullable(log).map(file -> LoadLog.to(file, narrator, clock()));
        LoadListener first = lines.<LoadListener>map(each -> each).orElse(narrator);
        List<LoadEntry> loads = load(project, warehouse, days, day -> {
            lines.ifPresent(each -> each.begins(day.toString()));
            return sink.<LoadListener>map(
                            events -> new OpenEvents(first, told.orElseThrow(), events, day.day(), clock()))
                    .orElse(first);
        });
        lines.ifPresent(each -> each.ends(loads));
        lines.flatMap(LoadLog::trouble).ifPresent(trouble -> output().aside("Note: " + trouble));
        sink.ifPresent(EventSink::close);
        sink.flatMap(EventSink::trouble).ifPresent(trouble -> output().aside("Note: " + trouble));
        return loads;
    }

    private List<LoadEntry> load(
            Project project, Warehouse warehouse, List<LoadDate> days, Function<LoadDate, LoadListener> listeners) {
        List<LoadEntry> loads = new ArrayList<>();
        for (LoadDate day : withDeliveries(project, warehouse, days)) {
            Optional<List<String>> wanted = dates.span == null ? Optional.of(tables) : open(project, warehouse, day);
            if (wanted.isEmpty()) {
                continue;
            }
            Loader loader = new Loader(project, warehouse, listeners.apply(day), clock());
            Optional<String> program = again || !from.isEmpty() ? Optional.empty() : Optional.of(Version.text());
            Request request =
                    new Request(day, wanted.get(), withDimensions, !noAlign, waived(), false, jobs, mended(), program);
            LoadEntry load = loader.load(request);
            loads.add(load);
            project.settings().metrics().ifPresent(file -> measured(project, warehouse, load, file));
            if (format() == Format.TEXT) {
                new LoadOutput(output(), options().verbose()).text(load);
            } else {
                errors(load);
            }
            if (load.status() != LoadStatus.DONE) {
                break;
            }
            tidy(project, warehouse, load);
        }
        return loads;
    }

    /** Upkeep that the project wants after so many loads; what was loaded stands, whatever comes of it. */
    private void tidy(Project project, Warehouse warehouse, LoadEntry load) {
        try {
            new Tidying(project, warehouse)
                    .after(load.load())
                    .ifPresent(done -> output().aside("Tidied up: " + TidyOutput.freed(done)));
        } catch (WarehouseException failed) {
            output().aside("The load is done; tidying up after it failed: " + failed.getMessage());
        }
    }

    /** The days of a span without those on which nothing came, which are told; a day that was asked for by itself is loaded. */
    private List<LoadDate> withDeliveries(Project project, Warehouse warehouse, List<LoadDate> days) {
        if (dates.span == null) {
            return days;
        }
        CatchUp catchUp = new CatchUp(project, warehouse);
        List<LoadDate> silent =
                days.stream().filter(day -> catchUp.isSilent(day, all(project))).toList();
        if (!silent.isEmpty() && !options().quiet()) {
            output().aside("Left out, since nothing was delivered: "
                    + silent.stream().limit(MOST_TOLD).map(LoadDate::toString).collect(Collectors.joining(", "))
                    + (silent.size() > MOST_TOLD ? " and " + (silent.size() - MOST_TOLD) + " more" : ""));
        }
        return days.stream().filter(day -> !silent.contains(day)).toList();
    }

    private List<Definition> all(Project project) {
        return tables.isEmpty()
                ? project.definitions()
                : tables.stream().map(project::definition).toList();
    }

    /** The tables to load for a day of a span; nothing when it is loaded already. */
    private Optional<List<String>> open(Project project, Warehouse warehouse, LoadDate day) {
        CatchUp.Open open = new CatchUp(project, warehouse).open(day, all(project), again);
        if (!options().quiet()) {
            open.tooLate()
                    .forEach(
                            definition -> output().aside(
                                            day + ": " + definition.table()
                                                    + " was loaded for a later day already, and the load date orders its history; this delivery is left out"));
            if (open.tables().isEmpty() && open.tooLate().isEmpty()) {
                output().aside(day + " is loaded already; --again loads it once more");
            }
        }
        return Optional.of(open.tables().stream().map(Definition::table).toList())
                .filter(names -> !names.isEmpty());
    }

    /** Whoever reads the result with a program finds the errors in it; whoever watches sees them too. */
    private void errors(LoadEntry load) {
        load.tables().stream()
                .filter(table -> table.status() != LoadStatus.SKIPPED && table.status() != LoadStatus.DONE)
                .forEach(table -> table.error().ifPresent(error -> output().error(table.table() + ": " + error)));
    }

    private List<LoadDate> days() {
        if (dates.span == null) {
            return List.of(dates.date == null ? LoadDate.of(LocalDate.now()) : dates.date);
        }
        String[] ends = dates.span.split("\\.\\.", -1);
        if (ends.length == 2) {
            try {
                LocalDate first = LocalDate.parse(ends[0]);
                LocalDate last = LocalDate.parse(ends[1]);
                if (!last.isBefore(first)) {
                    return first.datesUntil(last.plusDays(1)).map(LoadDate::of).toList();
                }
            } catch (DateTimeException notDates) {
                // reported below, like every span that cannot be read
            }
        }
        throw new UsageException(
                "--dates is \"" + dates.span + "\"; expected FIRST..LAST, as in 2026-03-01..2026-03-05");
    }

    static int status(LoadEntry load) {
        return switch (load.status()) {
            case DONE, SKIPPED, UNDONE -> ExitStatus.DONE;
            case STOPPED -> ExitStatus.STOPPED;
            case FAILED, BLOCKED, RUNNING -> ExitStatus.FAILED;
        };
    }
}
