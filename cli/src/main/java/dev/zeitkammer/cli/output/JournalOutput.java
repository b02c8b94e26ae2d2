package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.Journal.Mark;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import java.time.Duration;
import java.time.format.DateTimeFormatter;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.ToLongFunction;

/** The journal: past loads, a line each. */
public final class JournalOutput {

    private static final DateTimeFormatter STARTED = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss");

    private final Output output;

    public JournalOutput(Output output) {
        this.output = output;
    }

    /** @param only the table to show over time; empty: all of each load together */
    public void write(List<LoadEntry> all, Optional<String> only, Format format) {
        List<LoadEntry> loads = only.map(table -> of(table, all)).orElse(all);
        if (format != Format.TEXT) {
            new LoadOutput(output).write(loads, true, format);
            return;
        }
        if (loads.isEmpty()) {
            output.line(all.isEmpty() ? "Nothing has been loaded yet." : "No load of it is in the journal.");
            return;
        }
        if (only.isPresent()) {
            overTime(loads);
            return;
        }
        TextTable table = columns().text("not loaded");
        loads.forEach(load -> table.row(row(load)));
        output.block(table.render(""));
    }

    /**
     * The newest load that ended well, of everything or of one table.
     *
     * @param isRecent whether that is as new as was asked for
     */
    public void newest(Optional<LoadEntry> newest, Optional<String> table, boolean isRecent, Format format) {
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("good", isRecent);
        fields.put("table", table.orElse(""));
        fields.put("load", newest.map(load -> String.valueOf(load.load())).orElse(""));
        fields.put("ended", newest.flatMap(LoadEntry::ended).map(Values::plain).orElse(""));
        switch (format) {
            case TEXT -> {
                String of = table.map(" of "::concat).orElse("");
                String which = newest.map(load -> "load " + load.load() + ", at "
                                + Values.shown(load.ended().orElseThrow(), true) + " (UTC)")
                        .orElse("none");
                output.line(
                        isRecent
                                ? "The newest load" + of + " that ended well is " + which + "."
                                : Style.bad("No load" + of + " has ended well in that time")
                                        + "; the newest that did is " + which + ".");
            }
            case JSON -> output.data(Json.of(fields));
            case CSV -> {
                output.data(Csv.line(List.copyOf(fields.keySet())));
                output.data(Csv.line(List.copyOf(fields.values())));
            }
        }
    }

    /** The loads that had a table, with nothing but that. */
    private static List<LoadEntry> of(String table, List<LoadEntry> loads) {
        return loads.stream()
                .map(load -> new LoadEntry(
                        load.load(),
                        load.date(),
                        load.status(),
                        load.started(),
                        load.ended(),
                        load.tables().stream()
                                .filter(entry -> entry.table().equals(table))
                                .toList(),
                        List.of()))
                .filter(load -> !load.tables().isEmpty())
                .toList();
    }

    private void overTime(List<LoadEntry> loads) {
        TextTable table = columns().number("unmatched").prose("why");
        for (LoadEntry load : loads) {
            TableEntry entry = load.tables().get(0);
            table.row(
                    String.valueOf(load.load()),
                    load.date(),
                    entry.status().word(),
                    started(load),
                    LoadOutput.seconds(entry.seconds()),
                    String.valueOf(entry.count("staged")),
                    String.valueOf(entry.inserted()),
                    String.valueOf(entry.updated()),
                    String.valueOf(entry.count("setAside")),
                    String.valueOf(entry.lookedUp("unmatched")),
                    entry.error().map(Values::safe).orElse(""));
        }
        output.block(table.render(""));
    }

    /** The columns of loads, whatever is told of them. */
    private static TextTable columns() {
        return new TextTable()
                .number("load")
                .text("for")
                .text("status")
                .text("started (UTC)")
                .number("seconds")
                .number("staged")
                .number("inserted")
                .number("updated")
                .number("set aside");
    }

    private static String started(LoadEntry load) {
        return STARTED.format(load.started());
    }

    /** High-water marks, a line each. */
    public void marks(List<Mark> marks, Format format) {
        switch (format) {
            case TEXT -> {
                if (marks.isEmpty()) {
                    output.line("There are no high-water marks: no input with newer-than has been loaded.");
                    return;
                }
                TextTable table = new TextTable()
                        .text("table")
                        .text("input")
                        .text("column")
                        .text("loaded up to");
                marks.forEach(mark -> table.row(mark.table(), mark.input(), mark.column(), mark.mark()));
                output.block(table.render(""));
            }
            case JSON ->
                output.data(Json.of(marks.stream().map(JournalOutput::json).toList()));
            case CSV -> {
                output.data(Csv.line(List.of("table", "input", "column", "mark")));
                marks.forEach(
                        mark -> output.data(Csv.line(List.copyOf(json(mark).values()))));
            }
        }
    }

    private static Map<String, Object> json(Mark mark) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", mark.table());
        json.put("input", mark.input());
        json.put("column", mark.column());
        json.put("mark", mark.mark());
        return json;
    }

    private static List<String> row(LoadEntry load) {
        return List.of(
                String.valueOf(load.load()),
                load.date(),
                load.ended().isEmpty() ? "cut off" : load.status().word(),
                started(load),
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
                                .filter(table ->
                                        table.status() != LoadStatus.DONE && table.status() != LoadStatus.UNDONE)
                                .map(table ->
                                        table.table() + " " + table.status().word())
                                .toList()));
    }

    private static String sum(LoadEntry load, ToLongFunction<TableEntry> number) {
        return String.valueOf(load.tables().stream().mapToLong(number).sum());
    }
}
