package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.Output;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Reach;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.reading.ProjectReader;
import dev.zeitkammer.engine.BusyException;
import dev.zeitkammer.engine.OwnFolder;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouses;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.engine.database.Drivers;
import dev.zeitkammer.lookup.OthersTables;
import dev.zeitkammer.publish.Publishing;
import dev.zeitkammer.staging.Staging;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.function.ToIntFunction;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.ParentCommand;
import picocli.CommandLine.Spec;

/** What all commands share: the project, its warehouse, and where results go. */
abstract class BaseCommand implements Callable<Integer> {

    private static final long PAUSE_MILLIS = 300;

    @ParentCommand
    private @Nullable RootCommand root;

    @Spec
    private @Nullable CommandSpec spec;

    private @Nullable Output output;

    @Override
    public final Integer call() {
        return run();
    }

    /** Runs the command and returns its exit status. */
    abstract int run();

    private CommandSpec spec() {
        if (spec == null) {
            throw new IllegalStateException("a command runs below the root command only");
        }
        return spec;
    }

    final RootCommand root() {
        if (root == null) {
            throw new IllegalStateException("a command runs below the root command only");
        }
        return root;
    }

    final CommonOptions options() {
        return root().options();
    }

    final Format format() {
        return options().format();
    }

    final Output output() {
        if (output == null) {
            output = new Output(root().context().out(), root().context().err());
        }
        return output;
    }

    final Project project() {
        Project project = project(options().project());
        return options().warehouse().map(project::using).orElse(project);
    }

    /** The project in a folder; where the user has not vouched for it, as it is without anything beyond that folder. */
    final Project project(Path folder) {
        Optional.ofNullable(root().context().environment().get(Drivers.VARIABLE))
                .map(Path::of)
                .ifPresent(Drivers::trust);
        if (!vouched().covers(folder)) {
            return ProjectReader.readAlone(folder);
        }
        if (options().withDrivers()) {
            Drivers.trust(folder.resolve(Drivers.FOLDER));
        }
        return ProjectReader.read(folder, root().context().environment());
    }

    final Vouched vouched() {
        return new Vouched(root().context().environment());
    }

    /** A project that the program has just made is vouched for; where that cannot be noted, the user may do it. */
    final void made(Path folder) {
        try {
            vouched().note(folder);
        } catch (ZeitkammerException notNoted) {
            output().aside(String.valueOf(notNoted.getMessage()));
        }
    }

    /** What the project asks for and does not get, since the user has not vouched for it. */
    final List<String> refused(Project project) {
        if (project.withheld().isEmpty()) {
            return List.of();
        }
        List<String> asked =
                new ArrayList<>(Reach.of(project, project.warehouse(options().warehouse())));
        if (options().withDrivers()) {
            asked.add("runs the drivers in its folder " + Drivers.FOLDER);
        }
        return asked;
    }

    private void refuseStrange(Project project) {
        List<String> refused = refused(project);
        if (!refused.isEmpty()) {
            throw new UsageException(
                    "This project asks for more than its own folder, and you have not vouched for it:\n"
                            + refused.stream().map(each -> "  it " + each).collect(Collectors.joining("\n"))
                            + "\nLook at its files; where you trust them, say once: zeitkammer vouch");
        }
    }

    /** Whether the command reads no files but those of the project's inputs, and writes none through the engine. */
    boolean readsOnlyInputs() {
        return true;
    }

    /** Folders of files that the command reads beside those of the project's inputs. */
    Set<Path> alsoRead() {
        return Set.of();
    }

    /** Opens the project's warehouse for as long as the work takes; waits where that is wanted and the warehouse is busy. */
    final int withWarehouse(Project project, Access access, ToIntFunction<Warehouse> work) {
        refuseStrange(project);
        Instant end = Instant.now().plus(options().patience());
        boolean told = false;
        while (true) {
            try (Warehouse warehouse = Warehouses.open(
                    project.warehouse(options().warehouse()),
                    project.folder(),
                    access,
                    project.settings().memory())) {
                warehouse.waitForOthers(options().patience());
                return worked(project, warehouse, work);
            } catch (BusyException busy) {
                if (!Instant.now().isBefore(end)) {
                    throw busy;
                }
                if (!told && !options().quiet()) {
                    output().aside(busy.getMessage().lines().findFirst().orElse("") + ". Waiting until "
                            + LocalTime.now()
                                    .plus(Duration.between(Instant.now(), end))
                                    .truncatedTo(ChronoUnit.SECONDS)
                            + " at most ...");
                }
                told = true;
                pause();
            }
        }
    }

    private int worked(Project project, Warehouse warehouse, ToIntFunction<Warehouse> work) {
        ProgressLine progress = new ProgressLine(
                warehouse, System.console() != null && !options().quiet());
        output().beforeWriting(progress::end);
        progress.step("zeitkammer", spec().name());
        OthersTables.standIn(project, warehouse);
        if (readsOnlyInputs()) {
            Set<Path> reached = new HashSet<>(Staging.folders(project));
            reached.addAll(Publishing.folders(project));
            reached.addAll(alsoRead());
            if (project.withheld().isPresent()) {
                reached.removeIf(folder -> !OwnFolder.holds(project.folder(), folder));
            }
            warehouse.confine(reached);
        }
        return work.applyAsInt(warehouse);
    }

    /**
     * Does work that goes by the definitions: the project's warehouse is opened only where inputs read from it, and where the user
     * has vouched for a project that is not within its folder; else there is an empty one in memory.
     */
    final int withDefinitions(Project project, ToIntFunction<Warehouse> work) {
        boolean isNeeded = project.allInputs().stream()
                .anyMatch(input -> (input.origin() instanceof Input.Table table
                                && table.database().isEmpty())
                        || (input.origin() instanceof Input.Query query
                                && query.database().isEmpty()));
        return isNeeded && refused(project).isEmpty()
                ? withWarehouse(project, Access.PLAN, work)
                : alone(project, work);
    }

    /** Does work with an empty warehouse in memory, in the place of the project's. */
    final int alone(Project project, ToIntFunction<Warehouse> work) {
        try (Warehouse warehouse =
                Warehouses.inMemory(project.folder(), project.settings().memory())) {
            return worked(project, warehouse, work);
        }
    }

    private static void pause() {
        try {
            Thread.sleep(PAUSE_MILLIS);
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new ZeitkammerException("Interrupted while waiting for the warehouse", interrupted);
        }
    }

    /** The clock of loads: UTC. */
    static Clock clock() {
        return Clock.systemUTC();
    }
}
