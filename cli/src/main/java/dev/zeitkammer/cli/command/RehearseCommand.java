package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.RehearsalOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Rehearsal;
import dev.zeitkammer.staging.LoadDate;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer rehearse}. */
@Command(
        name = "rehearse",
        description =
                "Shows what a load would do: its counts, and the changed values old → new with what they cause, the most"
                        + " frequent attribute first. Several tables are rehearsed as one; nothing is kept.")
final class RehearseCommand extends BaseCommand {

    @Parameters(arity = "0..*", paramLabel = "TABLE", description = "The tables to rehearse (default: all).")
    private List<String> tables = new ArrayList<>();

    @Option(
            names = "--date",
            paramLabel = "D",
            description =
                    "The load date, such as 2026-03-01, or its moment, such as 2026-03-01T14:00 (default: today).")
    private @Nullable LoadDate date;

    @Override
    int run() {
        Project project = project();
        tables.forEach(project::definition);
        return withWarehouse(project, Access.REHEARSE, warehouse -> {
            Loader loader = new Loader(project, warehouse, new Narrator(output(), options(), warehouse), clock());
            Rehearsal rehearsal = loader.rehearse(date == null ? LoadDate.of(LocalDate.now()) : date, tables);
            new RehearsalOutput(output()).write(rehearsal, format());
            return ExitStatus.DONE;
        });
    }
}
