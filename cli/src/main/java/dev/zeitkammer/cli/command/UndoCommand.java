package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.RehearsalOutput;
import dev.zeitkammer.cli.output.UndoOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.Undo;
import dev.zeitkammer.load.Undo.Undone;
import dev.zeitkammer.past.LoadComparison;
import dev.zeitkammer.step.ChangedAttribute;
import java.util.List;
import java.util.Optional;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer undo}. */
@Command(
        name = "undo",
        description =
                "Takes back the newest load, or all loads back to one: rows, marks and waiting rows are as they were"
                        + " before. Keys are not given again; what was read is loaded again by the next load of it.")
final class UndoCommand extends BaseCommand {

    @Parameters(
            arity = "0..*",
            paramLabel = "LOAD|TABLE",
            description =
                    "The oldest load to take back (default: the newest), and tables, where only those are to be taken back.")
    private List<String> named = List.of();

    private Optional<Long> load() {
        List<String> numbers =
                named.stream().filter(word -> word.matches("\\d{1,18}")).toList();
        if (numbers.size() > 1) {
            throw new UsageException("Several loads are named: " + String.join(", ", numbers)
                    + "; name the oldest one that is to be taken back");
        }
        return numbers.stream().findFirst().map(Long::valueOf);
    }

    private List<String> tables() {
        return named.stream().filter(word -> !word.matches("\\d{1,18}")).toList();
    }

    @Option(names = "--show", description = "Shows what would be taken back; changes nothing.")
    private boolean show;

    /** The values as they are now, and as they would be again. */
    private void values(Project project, Warehouse warehouse, List<Undone> undone) {
        long before = undone.get(undone.size() - 1).load() - 1;
        List<ChangedAttribute> changed = project.definitions().stream()
                .filter(definition -> undone.stream()
                        .flatMap(load -> load.tables().stream())
                        .anyMatch(taken -> taken.table().equals(definition.table())))
                .map(definition -> new LoadComparison(warehouse, definition)
                        .of(undone.get(0).load(), before))
                .flatMap(compared -> compared.changed().stream())
                .toList();
        if (!changed.isEmpty()) {
            output().line("");
            RehearsalOutput.values(output(), changed);
        }
    }

    @Override
    int run() {
        Project project = project();
        return withWarehouse(project, show ? Access.REHEARSE : Access.WRITE, warehouse -> {
            Undo undo = new Undo(project, warehouse, clock());
            List<Undone> undone = show ? undo.show(load(), tables()) : undo.undo(load(), tables());
            UndoOutput shown = new UndoOutput(output());
            shown.write(undone, show, format());
            if (!show && format() == Format.TEXT) {
                shown.next(undone, table -> isPublished(project, table));
            }
            if (show && format() == Format.TEXT) {
                values(project, warehouse, undone);
            }
            return ExitStatus.DONE;
        });
    }

    /** Whether files of a table say still what was taken back; what an input remembers has none. */
    private static boolean isPublished(Project project, String table) {
        return project.definitions().stream()
                .anyMatch(definition ->
                        definition.table().equals(table) && definition.publish().isPresent());
    }
}
