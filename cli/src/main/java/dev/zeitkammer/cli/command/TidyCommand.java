package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.TidyOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Tidying;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer tidy}. */
@Command(
        name = "tidy",
        description =
                "Puts the files behind tables and books in order, as the warehouse has it: small files become large ones,"
                        + " and what no reader needs any more is removed. No row changes.")
final class TidyCommand extends BaseCommand {

    @Parameters(
            paramLabel = "TABLE",
            description = "Tables to tidy (default: all, those of inputs that are kept or retained, and the books).")
    private List<String> tables = List.of();

    @Option(
            names = "--days",
            paramLabel = "N",
            defaultValue = "" + Tidying.DAYS,
            description =
                    "On a cluster: for how many days readers may go back to what a table was (default: ${DEFAULT-VALUE}).")
    private int days;

    @Override
    int run() {
        if (days < 0) {
            throw new UsageException("--days is " + days + "; expected 0 or more");
        }
        Project project = project();
        return withWarehouse(project, Access.WRITE, warehouse -> {
            new TidyOutput(output()).write(new Tidying(project, warehouse).tidy(tables, days), format());
            return ExitStatus.DONE;
        });
    }
}
