package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.SetAsideRow;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Rows that were set aside. */
public final class SetAsideOutput {

    private final Output output;

    public SetAsideOutput(Output output) {
        this.output = output;
    }

    public void write(List<SetAsideRow> rows, Format format) {
        switch (format) {
            case TEXT -> text(rows);
            case JSON ->
                output.line(Json.of(rows.stream().map(SetAsideOutput::json).toList()));
            case CSV -> {
                output.line(Csv.line(List.copyOf(json(EMPTY).keySet())));
                rows.forEach(row ->
                        output.line(Csv.line(Arrays.asList(json(row).values().toArray()))));
            }
        }
    }

    private static final SetAsideRow EMPTY = new SetAsideRow(0, "", "", null, null, null, 0, null);

    private void text(List<SetAsideRow> rows) {
        if (rows.isEmpty()) {
            output.line("No rows were set aside.");
            return;
        }
        for (SetAsideRow row : rows) {
            output.line("load " + row.load() + ", " + row.table() + ": " + Style.bad(row.reason()) + detail(row));
            output.line("  " + place(row) + Style.faint(row.text() == null ? "" : Values.safe(row.text())));
        }
    }

    private static String detail(SetAsideRow row) {
        String value = row.value() == null ? "" : Values.safe(row.value());
        if (row.column() == null) {
            return value.isEmpty() ? "" : ": " + value;
        }
        return " in " + row.column() + (row.value() == null ? "" : ": \"" + value + "\"");
    }

    private static String place(SetAsideRow row) {
        if (row.file() == null) {
            return "";
        }
        return row.file() + (row.line() == 0 ? "" : ":" + row.line()) + ": ";
    }

    private static Map<String, @Nullable Object> json(SetAsideRow row) {
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
