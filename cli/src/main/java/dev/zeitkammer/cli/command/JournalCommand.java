package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Journal.Mark;
import dev.zeitkammer.cli.output.JournalOutput;
import dev.zeitkammer.cli.output.LoadOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.MarkSetting;
import dev.zeitkammer.load.MarkSetting.MarkChange;
import java.util.List;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer journal}. */
@Command(name = "journal", description = "Shows past loads, the newest last; with a number, that load as it ended.")
final class JournalCommand extends BaseCommand {

    @Parameters(arity = "0..1", paramLabel = "LOAD", description = "The number of a load.")
    private @Nullable Long load;

    @ArgGroup(multiplicity = "0..1")
    private MarksWanted marks = new MarksWanted();

    /** What to do about high-water marks. */
    static final class MarksWanted {
        @Option(names = "--marks", description = "Shows the high-water marks: up to where running columns are loaded.")
        private boolean shown;

        @Option(
                names = "--set-mark",
                paramLabel = "TABLE.INPUT=VALUE",
                description =
                        "Changes a high-water mark: the next load stages what is beyond it. With none as the value,"
                                + " it stages everything.")
        private @Nullable String set;
    }

    @Override
    int run() {
        if (load != null && load < 1) {
            throw new UsageException("The load is " + load + "; expected its number, 1 or more");
        }
        Project project = project();
        if (marks.set != null) {
            String wanted = marks.set;
            return withWarehouse(project, Access.WRITE, warehouse -> {
                MarkChange change = new MarkSetting(project, warehouse).set(wanted);
                new JournalOutput(output()).marks(List.of(change.after()), format());
                output().aside("The mark was " + change.before().map(Mark::mark).orElse("not there")
                        + "; the next load of " + change.after().table() + " begins behind the new one.");
                return ExitStatus.DONE;
            });
        }
        if (marks.shown) {
            return withWarehouse(project, Access.READ, warehouse -> {
                new JournalOutput(output()).marks(new Journal(warehouse).marks(), format());
                return ExitStatus.DONE;
            });
        }
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
