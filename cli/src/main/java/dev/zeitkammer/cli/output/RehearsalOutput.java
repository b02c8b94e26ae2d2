package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.load.ComingRow;
import dev.zeitkammer.load.Loader.Rehearsal;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.ChangedValue;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** What a load would do. */
public final class RehearsalOutput {

    private static final int EXAMPLES = 3;
    private static final int WIDTH = 100;

    private final Output output;

    public RehearsalOutput(Output output) {
        this.output = output;
    }

    public void write(Rehearsal rehearsal, Format format) {
        switch (format) {
            case TEXT -> text(rehearsal);
            case JSON -> output.data(Json.of(json(rehearsal)));
            case CSV -> csv(rehearsal);
        }
    }

    private void text(Rehearsal rehearsal) {
        output.line(Style.strong("Rehearsal") + " for " + rehearsal.load().date() + "; nothing is kept.");
        new LoadOutput(output).counts(rehearsal.load());
        new LoadOutput(output).extra(rehearsal.load());
        changes(rehearsal);
        coming(rehearsal.coming());
        notLoaded(rehearsal.notLoaded());
    }

    /** For each reason how many rows, and the first of them. */
    private void notLoaded(List<SetAsideRow> rows) {
        if (rows.isEmpty()) {
            return;
        }
        Map<List<String>, List<SetAsideRow>> alike = new LinkedHashMap<>();
        rows.forEach(row -> alike.computeIfAbsent(
                        List.of(row.table(), row.reason(), row.column() == null ? "" : row.column()),
                        first -> new ArrayList<>())
                .add(row));
        TextTable table = new TextTable()
                .text("set aside")
                .text("reason")
                .text("column")
                .number("rows")
                .text("such as");
        alike.forEach((group, same) -> same.stream().limit(EXAMPLES).forEach(row -> {
            boolean first = row == same.get(0);
            table.row(
                    first ? group.get(0) : "",
                    first ? group.get(1) : "",
                    first ? group.get(2) : "",
                    first ? String.valueOf(same.size()) : "",
                    shortened(SetAsideOutput.place(row) + Values.safe(row.text() == null ? "" : row.text())));
        }));
        output.line("");
        output.block(table.render(" "));
    }

    /** For each table how many rows come and end, and the first of them. */
    private void coming(List<ComingRow> rows) {
        if (rows.isEmpty()) {
            return;
        }
        Map<List<Object>, List<ComingRow>> alike = new LinkedHashMap<>();
        rows.forEach(row -> alike.computeIfAbsent(List.of(row.table(), row.comes()), first -> new ArrayList<>())
                .add(row));
        TextTable table =
                new TextTable().text("table").text("rows that").number("rows").prose("such as");
        alike.forEach((group, same) -> table.row(
                same.get(0).table(),
                same.get(0).comes() ? "come" : "end",
                String.valueOf(same.size()),
                shortened(same.stream()
                        .limit(EXAMPLES)
                        .map(RehearsalOutput::shown)
                        .collect(Collectors.joining("; ")))));
        output.line("");
        output.block(table.render(" "));
    }

    private static String shown(ComingRow row) {
        return Values.safe(row.key()) + (row.from().isEmpty() ? "" : " from " + row.from());
    }

    private static Map<String, Object> json(ComingRow row) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", row.table());
        json.put("what", row.comes() ? "comes" : "ends");
        json.put("key", row.key());
        if (!row.from().isEmpty()) {
            json.put("from", row.from());
        }
        return json;
    }

    private static String shortened(String text) {
        String line = text.lines().findFirst().orElse("");
        return line.length() > WIDTH ? line.substring(0, WIDTH - 1) + "…" : line;
    }

    private void changes(Rehearsal rehearsal) {
        if (rehearsal.changed().isEmpty()) {
            output.line("No value of a member or fact that is there would change.");
            return;
        }
        output.line("");
        values(output, rehearsal.changed());
    }

    /** Values that change, old and new. */
    public static void values(Output output, List<ChangedAttribute> changed) {
        boolean causes = changed.stream()
                .flatMap(attribute -> attribute.values().stream())
                .anyMatch(value -> !value.causes().isEmpty());
        TextTable table = new TextTable()
                .text("table")
                .text("attribute")
                .number("changes")
                .text("key")
                .text("old → new")
                .text(causes ? "causes" : "");
        changed.forEach(attribute -> rows(table, attribute));
        output.block(table.render(" "));
    }

    private static void rows(TextTable table, ChangedAttribute attribute) {
        boolean first = true;
        for (ChangedValue value : attribute.values()) {
            table.row(
                    first ? attribute.table() : "",
                    first ? attribute.attribute() : "",
                    first ? String.valueOf(attribute.count()) : "",
                    value.member(),
                    Values.shown(value.before()) + " → " + Values.shown(value.after()),
                    value.causes());
            first = false;
        }
        long more = attribute.count() - attribute.values().size();
        if (more > 0) {
            table.row("", "", "", "and " + more + " more", "", "");
        }
    }

    private static Map<String, Object> json(Rehearsal rehearsal) {
        Map<String, Object> json = LoadOutput.json(rehearsal.load());
        json.put(
                "changes",
                rehearsal.changed().stream().map(RehearsalOutput::json).toList());
        json.put("rows", rehearsal.coming().stream().map(RehearsalOutput::json).toList());
        json.put(
                "setAside",
                rehearsal.notLoaded().stream().map(SetAsideOutput::json).toList());
        return json;
    }

    static Map<String, Object> json(ChangedAttribute attribute) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", attribute.table());
        json.put("attribute", attribute.attribute());
        json.put("count", attribute.count());
        json.put(
                "values", attribute.values().stream().map(RehearsalOutput::json).toList());
        return json;
    }

    private static Map<String, @Nullable Object> json(ChangedValue value) {
        Map<String, @Nullable Object> json = new LinkedHashMap<>();
        json.put("key", value.member());
        json.put("old", value.before());
        json.put("new", value.after());
        json.put("causes", value.causes());
        return json;
    }

    private void csv(Rehearsal rehearsal) {
        output.data(Csv.line(List.of("table", "attribute", "key", "old", "new", "causes")));
        for (ChangedAttribute attribute : rehearsal.changed()) {
            for (ChangedValue value : attribute.values()) {
                output.data(Csv.line(Arrays.asList(
                        attribute.table(),
                        attribute.attribute(),
                        value.member(),
                        value.before(),
                        value.after(),
                        value.causes())));
            }
        }
        rehearsal
                .coming()
                .forEach(row -> output.data(Csv.line(
                        Arrays.asList(row.table(), "", row.key(), "", row.from(), row.comes() ? "comes" : "ends"))));
    }
}
