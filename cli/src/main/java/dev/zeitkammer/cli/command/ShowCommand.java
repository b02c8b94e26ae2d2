package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.RowsOutput;
import dev.zeitkammer.cli.output.Stamps;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.Warehouse.Result;
import dev.zeitkammer.past.KnownLoad;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.view.InputView;
import dev.zeitkammer.view.InputView.Shown;
import dev.zeitkammer.view.TableView;
import dev.zeitkammer.view.TableView.Selection;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer show}. */
@Command(
        name = "show",
        description = "Shows rows of a table, or staged rows of an input as a load would read them: as text the first "
                + ShowCommand.FEW
                + ", and with -v also when and by which load each was written; as json and csv everything.")
final class ShowCommand extends BaseCommand {

    static final long FEW = 50;

    @Parameters(
            paramLabel = "TABLE|INPUT",
            description =
                    "A dimension or fact, such as hut or dim_hut; or an input, also one that a table's own definition holds: hut:input.")
    private String table = "";

    @Option(names = "--as-of", paramLabel = "D", description = "Only the versions valid at this date or timestamp.")
    private @Nullable String asOf;

    @Option(
            names = "--known-at",
            paramLabel = "LOAD|D",
            description = "The table as it was known after a load, or at a date or timestamp.")
    private @Nullable String knownAt;

    @Option(names = "--where", paramLabel = "SQL", description = "Only the rows for which this condition holds.")
    private @Nullable String where;

    @Option(names = "--limit", paramLabel = "N", description = "At most this many rows.")
    private @Nullable Long limit;

    @Option(
            names = "--date",
            paramLabel = "D",
            description = "Of an input: the delivery of this load date, instead of the newest one.")
    private @Nullable LoadDate date;

    @Override
    int run() {
        if (limit != null && limit < 0) {
            throw new UsageException("--limit is " + limit + "; expected a number of rows, 0 or more");
        }
        Project project = project();
        Optional<Input> input = project.input(table);
        if (input.isPresent()) {
            return input(project, input.get());
        }
        Definition definition = project.definition(table);
        boolean few = format() == Format.TEXT && limit == null;
        Optional<Long> most = few ? Optional.of(FEW + 1) : Optional.ofNullable(limit);
        return withWarehouse(project, Access.READ, warehouse -> {
            Selection selection = new Selection(
                    Optional.ofNullable(asOf).map(ShowCommand::moment),
                    Optional.ofNullable(where),
                    most,
                    Optional.ofNullable(knownAt).map(then -> KnownLoad.of(warehouse, then)));
            Result result = new TableView(warehouse).rows(definition, selection);
            Stamps stamps = new Stamps(definition.conventions());
            boolean more = few && result.rows().size() > FEW;
            Result shown = more ? new Result(result.columns(), result.rows().subList(0, (int) FEW)) : result;
            boolean narrow = format() == Format.TEXT && !options().verbose();
            new RowsOutput(output(), stamps).write(narrow ? stamps.without(shown) : shown, format());
            if (more) {
                output().aside("These are the first " + FEW
                        + " rows; see more with --limit, or all with --format csv.");
            }
            return ExitStatus.DONE;
        });
    }

    /** What waits to be loaded; nothing of the warehouse is shown or changed. */
    private int input(Project project, Input input) {
        if (asOf != null || knownAt != null || where != null) {
            throw new UsageException(
                    "--as-of, --known-at and --where are for tables, and \"" + table + "\" is an input");
        }
        Optional<Long> most = format() == Format.TEXT && limit == null ? Optional.of(FEW) : Optional.ofNullable(limit);
        return withWarehouse(project, Access.PLAN, warehouse -> {
            Shown shown = new InputView(project, warehouse).rows(input, Optional.ofNullable(date), most);
            new RowsOutput(output(), new Stamps(project.settings().conventions())).write(shown.rows(), format());
            output().aside(Counted.rows(shown.staged()) + " of " + shown.from()
                    + (shown.rows().rows().size() < shown.staged()
                            ? "; these are the first " + shown.rows().rows().size() + ", see more with --limit"
                            : ""));
            shown.unusable()
                    .forEach(row -> output().aside("No row: " + row.file() + ":" + row.line() + ", " + row.reason()
                            + (row.column() == null ? "" : " in " + row.column())
                            + (row.value() == null ? "" : ": " + row.value())));
            return ExitStatus.DONE;
        });
    }

    private static LocalDateTime moment(String text) {
        try {
            return text.length() > "2026-01-01".length()
                    ? LocalDateTime.parse(text.replace(' ', 'T'))
                    : LocalDate.parse(text).atStartOfDay();
        } catch (DateTimeException notAMoment) {
            throw new UsageException("--as-of is \"" + text
                    + "\"; expected a date or a timestamp, such as 2026-03-01 or 2026-03-01T12:00:00");
        }
    }
}
