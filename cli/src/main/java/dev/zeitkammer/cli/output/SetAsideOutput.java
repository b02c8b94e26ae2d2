package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.WaitingEntry;
import dev.zeitkammer.staging.WaitingRow;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Rows that were set aside. */
public final class SetAsideOutput {

    private final Output output;

    public SetAsideOutput(Output output) {
        this.output = output;
    }

    /** @param resolved the loads that resolved rows of a load and a table */
    public void write(List<SetAsideRow> rows, Map<List<Object>, List<Long>> resolved, Format format) {
        write(rows, format, row -> json(row, resolved), EMPTY, all -> text(all, resolved));
    }

    private static List<Long> resolvedBy(SetAsideRow row, Map<List<Object>, List<Long>> resolved) {
        return resolved.getOrDefault(List.of(row.load(), row.table()), List.of());
    }

    private static Map<String, @Nullable Object> json(SetAsideRow row, Map<List<Object>, List<Long>> resolved) {
        Map<String, @Nullable Object> json = json(row);
        List<Long> by = resolvedBy(row, resolved);
        json.put("resolved_by", by.isEmpty() ? null : by.get(by.size() - 1));
        return json;
    }

    /** Rows that wait, with the day since which they do. */
    public void writeWaiting(List<WaitingEntry> rows, Format format) {
        write(rows, format, SetAsideOutput::json, WAITING, this::waiting);
    }

    private <T> void write(
            List<T> rows,
            Format format,
            Function<T, Map<String, @Nullable Object>> json,
            T none,
            Consumer<List<T>> text) {
        switch (format) {
            case TEXT -> text.accept(rows);
            case JSON -> output.data(Json.of(rows.stream().map(json).toList()));
            case CSV -> {
                output.data(Csv.line(List.copyOf(json.apply(none).keySet())));
                rows.forEach(row -> output.data(
                        Csv.line(Arrays.asList(json.apply(row).values().toArray()))));
            }
        }
    }

    private static final SetAsideRow EMPTY = new SetAsideRow(0, "", "", null, null, null, 0, null);
    private static final WaitingEntry WAITING =
            new WaitingEntry("", "", 0, new WaitingRow("", 0, 0, "", null, null, null, 0, null, Map.of()));

    private void text(List<SetAsideRow> rows, Map<List<Object>, List<Long>> resolved) {
        if (rows.isEmpty()) {
            output.line("No rows were set aside.");
            return;
        }
        for (SetAsideRow row : rows) {
            output.line("load " + row.load() + ", " + row.table() + ": " + Style.bad(row.reason()) + detail(row)
                    + resolvedBy(row, resolved).stream()
                            .reduce((first, second) -> second)
                            .map(load -> " (resolved by load " + load + ")")
                            .orElse(""));
            line(row);
        }
    }

    private void waiting(List<WaitingEntry> entries) {
        if (entries.isEmpty()) {
            output.line("No rows wait.");
            return;
        }
        for (WaitingEntry entry : entries) {
            SetAsideRow row = entry.notLoaded();
            String age = entry.days() == 0 ? "" : entry.days() == 1 ? ", 1 day" : ", " + entry.days() + " days";
            output.line(row.table() + ", since " + entry.since() + " (load " + row.load() + age + "): "
                    + Style.bad(row.reason()) + detail(row));
            line(row);
        }
    }

    private void line(SetAsideRow row) {
        output.line("  " + place(row) + Style.faint(row.text() == null ? "" : Values.safe(row.text())));
    }

    private static Map<String, @Nullable Object> json(WaitingEntry entry) {
        Map<String, @Nullable Object> json = json(entry.notLoaded());
        json.put("since", entry.since());
        json.put("days", entry.days());
        return json;
    }

    private static String detail(SetAsideRow row) {
        String value = row.value() == null ? "" : Values.safe(row.value());
        if (row.column() == null) {
            return value.isEmpty() ? "" : ": " + value;
        }
        return " in " + row.column() + (row.value() == null ? "" : ": \"" + value + "\"");
    }

    /** Where a row stands, before its text. */
    static String place(SetAsideRow row) {
        if (row.file() == null) {
            return "";
        }
        return row.file() + (row.line() == 0 ? "" : ":" + row.line()) + ": ";
    }

    static Map<String, @Nullable Object> json(SetAsideRow row) {
        Map<String, @Nullable Object> json = new LinkedHashMap<>();
        json.put("load", row.load());
        json.put("table", row.table());
        json.put("reason", row.reason());
        json.put("column", row.column());
        json.put("value", row.value());
        json.put("file", row.file());
        json.put("line", row.file() == null || row.line() == 0 ? null : row.line());
        json.put("text", row.text());
        return json;
    }
}
