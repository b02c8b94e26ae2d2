package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.LineageOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.lineage.DefinitionLineage;
import dev.zeitkammer.lineage.Headers;
import dev.zeitkammer.lineage.Lineage;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer lineage}. */
@Command(
        name = "lineage",
        description = {
            "Shows where a column comes from, back to the files, or what uses it.",
            "It is read off the definitions; nothing is loaded."
        })
final class LineageCommand extends BaseCommand {

    @Parameters(
            paramLabel = "TABLE|INPUT[.COLUMN]",
            description = "A table or an input, or a column of one: night_stay, night_stay.paid.")
    private String named = "";

    @Option(names = "--to", description = "Goes the other way: what uses it.")
    private boolean forward;

    @Override
    int run() {
        Project project = project();
        return withDefinitions(project, warehouse -> {
            Lineage lineage = DefinitionLineage.of(project, Headers.newest(project, warehouse));
            new LineageOutput(output(), lineage, forward).write(lineage.named(named), format());
            return ExitStatus.DONE;
        });
    }
}
