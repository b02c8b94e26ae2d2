package dev.zeitkammer.cli.output;

import dev.zeitkammer.load.Aligner.Aligned;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What aligning takes, or took. */
public final class AlignOutput {

    private final Output output;

    public AlignOutput(Output output) {
        this.output = output;
    }

    /** @param shown whether the SQL was only shown, not run */
    public void write(List<Aligned> tables, boolean shown, Format format) {
        switch (format) {
            case TEXT -> tables.forEach(table -> text(table, shown));
            case JSON ->
                output.data(Json.of(tables.stream().map(AlignOutput::json).toList()));
            case CSV -> {
                output.data(Csv.line(List.of("table", "sql")));
                tables.forEach(table ->
                        table.statements().forEach(sql -> output.data(Csv.line(List.of(table.table(), sql)))));
            }
        }
    }

    private void text(Aligned table, boolean shown) {
        String what = table.statements().isEmpty() ? "fits" : shown ? "does not fit yet" : "was made to fit";
        boolean undecided = table.statements().isEmpty() && !table.notes().isEmpty();
        output.line("-- " + Style.strong(table.table()) + (undecided ? "" : ": " + what));
        table.notes().forEach(note -> output.line("-- " + note));
        if (shown) {
            table.statements().forEach(sql -> output.line(sql + ";"));
        }
    }

    private static Map<String, Object> json(Aligned table) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", table.table());
        json.put("statements", table.statements());
        json.put("notes", table.notes());
        return json;
    }
}
