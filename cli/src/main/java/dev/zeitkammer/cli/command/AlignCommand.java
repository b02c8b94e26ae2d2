package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.AlignOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Aligner;
import dev.zeitkammer.staging.LoadDate;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** {@code zeitkammer align}. */
@Command(
        name = "align",
        description = {
            "Makes the tables fit the definitions: creates them, adds columns, widens types. Destroys nothing; a change that"
                    + " would lose data is refused with the SQL that would do it.",
            "A load aligns by itself."
        })
final class AlignCommand extends BaseCommand {

    @Option(names = "--show", description = "Shows the SQL and runs nothing.")
    private boolean show;

    @Option(
            names = "--date",
            paramLabel = "D",
            description = "Goes by the deliveries of this load date, instead of the newest ones.")
    private @Nullable LoadDate date;

    @Override
    int run() {
        Project project = project();
        return withWarehouse(project, show ? Access.PLAN : Access.WRITE, warehouse -> {
            Aligner aligner = new Aligner(project, warehouse, clock()).on(Optional.ofNullable(date));
            new AlignOutput(output()).write(show ? aligner.show() : aligner.align(), show, format());
            return ExitStatus.DONE;
        });
    }
}
