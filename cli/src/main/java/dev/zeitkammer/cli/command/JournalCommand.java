package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Journal.Mark;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SealBooks;
import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.JournalOutput;
import dev.zeitkammer.cli.output.LoadOutput;
import dev.zeitkammer.cli.output.VerifyOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.load.MarkSetting;
import dev.zeitkammer.load.MarkSetting.MarkChange;
import dev.zeitkammer.staging.LoadDate;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer journal}. */
@Command(
        name = "journal",
        description =
                "Shows past loads, the newest last; with a number, that load as it ended; with a table, that one over time.")
final class JournalCommand extends BaseCommand {

    @Parameters(arity = "0..1", paramLabel = "LOAD|TABLE", description = "The number of a load, or a table.")
    private @Nullable String wanted;

    @Option(names = "--since", paramLabel = "D", description = "Only loads that began at this date or later (UTC).")
    private @Nullable LoadDate since;

    @Option(
            names = "--within",
            paramLabel = "TIME",
            description =
                    "Fails, with status 1, unless a load (of the table) has ended well within this time, such as 26h: for a monitor.")
    private @Nullable Duration within;

    @ArgGroup(multiplicity = "0..1")
    private MarksWanted marks = new MarksWanted();

    /** What to do about high-water marks. */
    static final class MarksWanted {
        @Option(names = "--marks", description = "Shows the high-water marks: up to where running columns are loaded.")
        private boolean shown;

        @Option(names = "--accepted", description = "Shows which changes by hand were accepted, and why.")
        private boolean accepted;

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
        Optional<Long> load = Optional.ofNullable(wanted)
                .filter(word -> word.matches("-?\\d{1,18}"))
                .map(Long::valueOf);
        load.filter(number -> number < 1).ifPresent(number -> {
            throw new UsageException("The load is " + number + "; expected its number, 1 or more");
        });
        Project project = project();
        Optional<String> table = Optional.ofNullable(wanted)
                .filter(word -> load.isEmpty())
                .map(word -> project.definition(word).table());
        Duration time = within;
        if (time != null) {
            if (load.isPresent()) {
                throw new UsageException("--within asks for any load; leave out the number, or name a table");
            }
            return withWarehouse(
                    project, Access.READ, warehouse -> isRecent(new Journal(warehouse).loads(), table, time));
        }
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
        if (marks.accepted) {
            return withWarehouse(project, Access.READ, warehouse -> {
                new VerifyOutput(output())
                        .accepted(
                                new SealBooks(warehouse).accepted(),
                                "No changes by hand were ever accepted.",
                                format());
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
            if (load.isPresent()) {
                new LoadOutput(output(), options().verbose()).write(List.of(journal.load(load.get())), false, format());
            } else {
                List<LoadEntry> all = journal.loads();
                List<LoadEntry> shown = since(all);
                if (shown.isEmpty() && !all.isEmpty() && format() == Format.TEXT) {
                    output().line("No load has begun since " + since + "; the newest began at "
                            + all.get(all.size() - 1).started().truncatedTo(ChronoUnit.SECONDS) + " (UTC).");
                } else {
                    new JournalOutput(output()).write(shown, table, format());
                }
            }
            return ExitStatus.DONE;
        });
    }

    private int isRecent(List<LoadEntry> loads, Optional<String> table, Duration time) {
        Optional<LoadEntry> newest = loads.stream()
                .filter(load -> load.ended().isPresent())
                .filter(load -> table.map(named -> load.tables().stream()
                                .anyMatch(each -> each.table().equals(named) && each.status() == LoadStatus.DONE))
                        .orElse(load.status() == LoadStatus.DONE))
                .reduce((first, second) -> second);
        boolean isRecent = newest.flatMap(LoadEntry::ended)
                .filter(ended -> !ended.isBefore(LocalDateTime.now(clock()).minus(time)))
                .isPresent();
        new JournalOutput(output()).newest(newest, table, isRecent, format());
        return isRecent ? ExitStatus.DONE : ExitStatus.FAILED;
    }

    private List<LoadEntry> since(List<LoadEntry> loads) {
        LoadDate first = since;
        return first == null
                ? loads
                : loads.stream()
                        .filter(load -> !load.started().isBefore(first.moment()))
                        .toList();
    }
}
