package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.PublishOutput;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.publish.Publishing;
import dev.zeitkammer.publish.Publishing.Published;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer publish}. */
@Command(
        name = "publish",
        description = {
            "Writes tables out as open files for readers elsewhere, as publish: of their definitions says.",
            "A load does so by itself. What has not changed since is not written again."
        })
final class PublishCommand extends BaseCommand {

    @Parameters(paramLabel = "TABLE", description = "Tables to publish (default: all that say how).")
    private List<String> tables = List.of();

    @Override
    int run() {
        Project project = project();
        List<Definition> wanted = tables.isEmpty()
                ? project.definitions().stream()
                        .filter(definition -> definition.publish().isPresent())
                        .toList()
                : tables.stream().map(project::definition).toList();
        if (wanted.isEmpty()) {
            throw new UsageException(
                    "No table of this project says how it is published; write publish: {to: …} in its definition");
        }
        wanted.stream()
                .filter(definition -> definition.publish().isEmpty())
                .findFirst()
                .ifPresent(definition -> {
                    throw new UsageException(definition.table()
                            + " does not say how it is published; write publish: {to: …} in its definition");
                });
        return withWarehouse(project, Access.READ, warehouse -> {
            List<Published> published = new ArrayList<>();
            for (Definition definition : wanted) {
                if (warehouse.has(definition.table())) {
                    published.add(new Publishing(project, warehouse, clock()).publish(definition));
                } else {
                    output().aside(definition.table() + " has never been loaded, and is not published");
                }
            }
            new PublishOutput(output()).write(published, format());
            return ExitStatus.DONE;
        });
    }
}
