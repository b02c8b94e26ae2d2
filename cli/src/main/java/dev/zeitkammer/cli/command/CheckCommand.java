package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.CheckOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Checker;
import dev.zeitkammer.load.Checker.Report;
import picocli.CommandLine.Command;

/** {@code zeitkammer check}. */
@Command(
        name = "check",
        description = {
            "Checks the definitions against each other, the newest delivery and the warehouse; changes nothing.",
            "Every error is reported at once, as file:line:column."
        })
final class CheckCommand extends BaseCommand {

    @Override
    int run() {
        Project project = project();
        return withWarehouse(project, Access.PLAN, warehouse -> {
            Report report = new Checker(project, warehouse, clock()).check();
            new CheckOutput(output()).write(report, format(), options().quiet());
            if (report.isSound()) {
                return ExitStatus.DONE;
            }
            return report.problems().isEmpty() ? ExitStatus.FAILED : ExitStatus.USAGE;
        });
    }
}
