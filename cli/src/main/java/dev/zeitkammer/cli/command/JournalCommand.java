package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.cli.output.JournalOutput;
import dev.zeitkammer.cli.output.LoadOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import java.util.List;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer journal}. */
@Command(name = "journal", description = "Shows past loads, the newest last; with a number, that load as it ended.")
final class JournalCommand extends BaseCommand {

    @Parameters(arity = "0..1", paramLabel = "LOAD", description = "The number of a load.")
    private @Nullable Long load;

    @Override
    int run() {
        Project project = project();
        return withWarehouse(project, Access.READ, warehouse -> {
            Journal journal = new Journal(warehouse);
            if (load == null) {
                new JournalOutput(output()).write(journal.loads(), format());
            } else {
                new LoadOutput(output()).write(List.of(journal.load(load)), false, format());
            }
            return ExitStatus.DONE;
        });
    }
}
