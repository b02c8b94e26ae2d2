package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.cli.output.SetAsideOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer set-aside}. */
@Command(
        name = "set-aside",
        description = "Shows the staged rows that were not loaded, with the reason, the place and the text of each.")
final class SetAsideCommand extends BaseCommand {

    @Parameters(arity = "0..1", paramLabel = "LOAD", description = "The number of a load (default: all loads).")
    private @Nullable Long load;

    @Override
    int run() {
        Project project = project();
        return withWarehouse(project, Access.READ, warehouse -> {
            Journal journal = new Journal(warehouse);
            Optional<Long> wanted = Optional.ofNullable(load);
            wanted.ifPresent(journal::load);
            new SetAsideOutput(output()).write(journal.setAside(wanted), format());
            return ExitStatus.DONE;
        });
    }
}
