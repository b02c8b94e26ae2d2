package dev.zeitkammer.cli.command;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.WaitingEntry;
import dev.zeitkammer.cli.output.SetAsideOutput;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.PrivateFolder;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Access;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.staging.RowForm;
import dev.zeitkammer.staging.RowsBack;
import java.nio.file.Path;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer set-aside}. */
@Command(
        name = "set-aside",
        description = "Shows the staged rows that were not loaded, with the reason, the place and the text of each.")
final class SetAsideCommand extends BaseCommand {

    @Parameters(arity = "0..1", paramLabel = "LOAD", description = "The number of a load (default: all loads).")
    private @Nullable Long load;

    @Option(names = "--table", paramLabel = "TABLE", description = "Only rows of this table.")
    private @Nullable String table;

    @Option(
            names = "--from",
            paramLabel = "TEXT",
            description = "Only rows of delivered files whose names contain this text.")
    private @Nullable String from;

    @Option(
            names = "--to",
            paramLabel = "FILE",
            description =
                    "Writes the rows to a new file in the form they came in, to be mended and loaded with load --from.")
    private @Nullable Path to;

    @Option(
            names = "--waiting",
            description = "Shows the rows that wait for a partner, a member or a fact, and since when, instead.")
    private boolean waiting;

    @Override
    boolean readsOnlyInputs() {
        return false;
    }

    @Override
    int run() {
        Project project = project();
        return withWarehouse(project, Access.READ, warehouse -> {
            Journal journal = new Journal(warehouse);
            Optional<Long> wanted = Optional.ofNullable(load);
            wanted.ifPresent(journal::load);
            if (waiting) {
                List<WaitingEntry> rows = journal.waiting().stream()
                        .filter(entry -> load == null || load == entry.row().since())
                        .filter(entry -> isWanted(entry.notLoaded(), project))
                        .toList();
                if (to == null) {
                    new SetAsideOutput(output()).writeWaiting(rows, format());
                } else {
                    write(
                            warehouse,
                            journal,
                            rows.stream().map(WaitingEntry::notLoaded).toList(),
                            to);
                }
                return ExitStatus.DONE;
            }
            List<SetAsideRow> rows = journal.setAside(wanted).stream()
                    .filter(row -> isWanted(row, project))
                    .toList();
            if (to == null) {
                new SetAsideOutput(output()).write(rows, journal.resolved(), format());
            } else {
                write(warehouse, journal, rows, to);
            }
            return ExitStatus.DONE;
        });
    }

    private boolean isWanted(SetAsideRow row, Project project) {
        boolean isOfTable =
                table == null || row.table().equals(project.definition(table).table());
        return isOfTable && (from == null || String.valueOf(row.file()).contains(from));
    }

    private void write(Warehouse warehouse, Journal journal, List<SetAsideRow> rows, Path file) {
        List<SetAsideRow> texts =
                rows.stream().filter(row -> row.text() != null).toList();
        if (texts.isEmpty()) {
            throw new ZeitkammerException("There are no rows set aside to write; " + file + " was not made");
        }
        RowForm form = onlyForm(journal, texts);
        List<String> distinct = texts.stream().map(SetAsideRow::text).distinct().toList();
        new RowsBack(warehouse).write(file, form, distinct);
        PrivateFolder.guard(file);
        if (!options().quiet()) {
            output().aside("Wrote " + distinct.size() + (distinct.size() == 1 ? " row" : " rows") + " to " + file
                    + "; mend them there, then: zeitkammer load "
                    + (onlyTable(texts) + " --from " + file + (load == null ? "" : " --resolves " + load)));
        }
    }

    private static String onlyTable(List<SetAsideRow> rows) {
        Set<String> names = rows.stream().map(SetAsideRow::table).collect(Collectors.toSet());
        return names.size() == 1 ? names.iterator().next() : "TABLE";
    }

    /** Rows of several forms do not go into one file. */
    private static RowForm onlyForm(Journal journal, List<SetAsideRow> rows) {
        Map<RowForm, String> forms = new LinkedHashMap<>();
        Set<List<Object>> files = new HashSet<>();
        for (SetAsideRow row : rows) {
            if (files.add(List.of(row.load(), row.table(), row.file()))) {
                journal.form(row).ifPresent(form -> forms.putIfAbsent(form, String.valueOf(row.file())));
            }
        }
        if (forms.size() != 1) {
            throw new UsageException("These rows came in " + forms.size()
                    + " forms, as in " + String.join(" and ", forms.values())
                    + "; one file holds rows of one form: name a load, --table or --from");
        }
        return forms.keySet().iterator().next();
    }
}
