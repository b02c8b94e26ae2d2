package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import java.time.Duration;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.function.ToLongFunction;

/** The journal: past loads, a line each. */
public final class JournalOutput {

    private final Output output;

    public JournalOutput(Output output) {
        this.output = output;
    }

    public void write(List<LoadEntry> loads, Format format) {
        if (format != Format.TEXT) {
            new LoadOutput(output).write(loads, true, format);
            return;
        }
        if (loads.isEmpty()) {
            output.line("Nothing has been loaded yet.");
            return;
        }
        TextTable table = new TextTable()
                .number("load")
                .text("for")
                .text("status")
                .text("started (UTC)")
                .number("seconds")
                .number("staged")
                .number("inserted")
                .number("updated")
                .number("set aside")
                .text("not loaded");
        loads.forEach(load -> table.row(row(load)));
        output.block(table.render(""));
    }

    private static List<String> row(LoadEntry load) {
        return List.of(
                String.valueOf(load.load()),
                load.date(),
                load.ended().isEmpty() ? "cut off" : load.status().word(),
                load.started().truncatedTo(ChronoUnit.SECONDS).toString().replace('T', ' '),
                load.ended()
                        .map(ended -> LoadOutput.seconds(
                                Duration.between(load.started(), ended).toMillis() / 1000.0))
                        .orElse(""),
                sum(load, table -> table.count("staged")),
                sum(load, TableEntry::inserted),
                sum(load, TableEntry::updated),
                sum(load, table -> table.count("setAside")),
                String.join(
                        ", ",
                        load.tables().stream()
                                .filter(table -> table.status() != LoadStatus.DONE)
                                .map(table ->
                                        table.table() + " " + table.status().word())
                                .toList()));
    }

    private static String sum(LoadEntry load, ToLongFunction<TableEntry> number) {
        return String.valueOf(load.tables().stream().mapToLong(number).sum());
    }
}
