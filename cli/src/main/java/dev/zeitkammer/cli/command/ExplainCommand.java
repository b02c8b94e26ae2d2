package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.ExplainOutput;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Explanation;
import dev.zeitkammer.load.Preview;
import dev.zeitkammer.load.Preview.Ready;
import dev.zeitkammer.staging.LoadDate;
import java.util.Optional;
import java.util.function.ToIntFunction;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer explain}. */
@Command(
        name = "explain",
        description =
                "Shows the SQL that a load of the newest delivery runs, step by step, with what each step is for; runs"
                        + " nothing on the warehouse.")
final class ExplainCommand extends BaseCommand {

    @Parameters(paramLabel = "TABLE", description = "A dimension or fact, such as hut or dim_hut.")
    private String table = "";

    @Option(
            names = "--date",
            paramLabel = "D",
            description = "Goes by the deliveries of this load date, instead of the newest ones.")
    private @Nullable LoadDate date;

    @Override
    int run() {
        Project project = project();
        Definition definition = project.definition(table);
        ToIntFunction<Warehouse> explaining = warehouse -> {
            Preview preview = new Preview(project, warehouse, clock()).on(Optional.ofNullable(date));
            Ready ready = preview.of(definition)
                    .orElseThrow(() -> new UsageException("Cannot explain " + definition.table()
                            + ": its columns are those of a delivery, and "
                            + preview.missing(definition.from().orElseThrow())));
            new ExplainOutput(output())
                    .write(
                            Explanation.of(ready, warehouse)
                                    .judging(definition, warehouse.dialect())
                                    .with(project.extra(), definition.name().text()),
                            format());
            return ExitStatus.DONE;
        };
        if (refused(project).isEmpty()) {
            return withWarehouse(project, Access.PLAN, explaining);
        }
        output().aside(
                        "You have not vouched for this project: its warehouse is not opened, and the SQL is that of the embedded engine"
                                + " for empty tables.");
        return alone(project, explaining);
    }
}
