package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.HistoryOutput;
import dev.zeitkammer.cli.output.Stamps;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.past.KnownLoad;
import dev.zeitkammer.view.MemberHistory;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer history}. */
@Command(
        name = "history",
        description = "Shows the versions of one member side by side, with the changed values marked.")
final class HistoryCommand extends BaseCommand {

    @Parameters(index = "0", paramLabel = "DIMENSION", description = "A dimension, such as hut or dim_hut.")
    private String dimension = "";

    @Parameters(index = "1..*", arity = "1..*", paramLabel = "KEY", description = "The business key, in its order.")
    private List<String> key = new ArrayList<>();

    @Option(
            names = "--known-at",
            paramLabel = "LOAD|D",
            description = "The versions as they were known after a load, or at a date or timestamp.")
    private @Nullable String knownAt;

    @Override
    int run() {
        Project project = project();
        Definition definition = project.definition(dimension);
        if (!(definition instanceof Dimension members)) {
            throw new UsageException(definition.table() + " is a fact table; history is of a dimension's members");
        }
        return withWarehouse(project, Access.READ, warehouse -> {
            MemberHistory history = MemberHistory.read(
                    warehouse, members, key, Optional.ofNullable(knownAt).map(then -> KnownLoad.of(warehouse, then)));
            new HistoryOutput(output(), new Stamps(members.conventions())).write(history, format());
            return ExitStatus.DONE;
        });
    }
}
