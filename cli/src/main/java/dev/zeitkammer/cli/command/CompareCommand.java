package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.CompareOutput;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.past.KnownLoad;
import dev.zeitkammer.past.LoadComparison;
import dev.zeitkammer.past.LoadComparison.Compared;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer compare}. */
@Command(
        name = "compare",
        description =
                "Shows what lies between two loads: the rows of each table that came and went, and the values that"
                        + " changed, old → new, the most frequent column first.")
final class CompareCommand extends BaseCommand {

    @Parameters(index = "0", paramLabel = "BEFORE", description = "A load by its number, or a date or timestamp.")
    private String before = "";

    @Parameters(index = "1", paramLabel = "AFTER", description = "A later load, or a later date or timestamp.")
    private String after = "";

    @Parameters(index = "2..*", arity = "0..*", paramLabel = "TABLE", description = "The tables (default: all).")
    private List<String> tables = new ArrayList<>();

    @Override
    int run() {
        Project project = project();
        List<Definition> wanted = tables.isEmpty()
                ? project.definitions()
                : tables.stream().map(project::definition).toList();
        return withWarehouse(project, Access.READ, warehouse -> {
            long first = KnownLoad.of(warehouse, before);
            long second = KnownLoad.of(warehouse, after);
            List<Compared> compared = wanted.stream()
                    .filter(definition -> warehouse.has(definition.table()))
                    .map(definition -> new LoadComparison(warehouse, definition).of(first, second))
                    .toList();
            new CompareOutput(output()).write(first, second, compared, format());
            return ExitStatus.DONE;
        });
    }
}
