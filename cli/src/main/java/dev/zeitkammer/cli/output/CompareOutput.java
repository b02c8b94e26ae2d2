package dev.zeitkammer.cli.output;

import dev.zeitkammer.past.LoadComparison.Compared;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.ChangedValue;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What lies between two loads. */
public final class CompareOutput {

    private final Output output;

    public CompareOutput(Output output) {
        this.output = output;
    }

    public void write(long before, long after, List<Compared> tables, Format format) {
        switch (format) {
            case TEXT -> text(before, after, tables);
            case JSON -> {
                Map<String, Object> json = new LinkedHashMap<>();
                json.put("before", before);
                json.put("after", after);
                json.put("tables", tables.stream().map(CompareOutput::json).toList());
                output.data(Json.of(json));
            }
            case CSV -> csv(tables);
        }
    }

    private void text(long before, long after, List<Compared> tables) {
        output.line(Style.strong("From load " + before + " to load " + after));
        TextTable rows = new TextTable()
                .text("table")
                .number("rows that came")
                .number("rows that went")
                .number("values changed");
        tables.forEach(table -> rows.row(
                table.table(),
                Values.count(table.came()),
                Values.count(table.gone()),
                Values.count(table.changed().stream()
                        .mapToLong(ChangedAttribute::count)
                        .sum())));
        output.block(rows.render(" "));
        List<ChangedAttribute> changed =
                tables.stream().flatMap(table -> table.changed().stream()).toList();
        if (!changed.isEmpty()) {
            output.line("");
            RehearsalOutput.values(output, changed);
        }
    }

    private static Map<String, Object> json(Compared table) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", table.table());
        json.put("came", table.came());
        json.put("gone", table.gone());
        json.put("changes", table.changed().stream().map(RehearsalOutput::json).toList());
        return json;
    }

    private void csv(List<Compared> tables) {
        output.data(Csv.line(List.of("table", "column", "key", "old", "new")));
        for (Compared table : tables) {
            for (ChangedAttribute attribute : table.changed()) {
                for (ChangedValue value : attribute.values()) {
                    List<Object> line = new ArrayList<>(List.of(table.table(), attribute.attribute(), value.member()));
                    line.add(value.before() == null ? "" : value.before());
                    line.add(value.after() == null ? "" : value.after());
                    output.data(Csv.line(line));
                }
            }
        }
    }
}
