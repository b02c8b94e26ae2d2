package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.Output;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.ProjectReader;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouses;
import java.nio.file.Path;
import java.time.Clock;
import java.util.concurrent.Callable;
import java.util.function.ToIntFunction;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ParentCommand;

/** What all commands share: the project, its warehouse, and where results go. */
abstract class BaseCommand implements Callable<Integer> {

    @ParentCommand
    private @Nullable RootCommand root;

    private @Nullable Output output;

    @Override
    public final Integer call() {
        return run();
    }

    /** Runs the command and returns its exit status. */
    abstract int run();

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
        return project(options().project());
    }

    final Project project(Path folder) {
        return ProjectReader.read(folder, root().context().environment());
    }

    /** Opens the project's warehouse for as long as the work takes. */
    final int withWarehouse(Project project, Access access, ToIntFunction<Warehouse> work) {
        try (Warehouse warehouse =
                Warehouses.open(project.warehouse(options().warehouse()), project.folder(), access, project.memory())) {
            return work.applyAsInt(warehouse);
        }
    }

    /** The clock of loads: UTC. */
    static Clock clock() {
        return Clock.systemUTC();
    }
}
