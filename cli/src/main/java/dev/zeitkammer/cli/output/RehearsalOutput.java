package dev.zeitkammer.cli.output;

import dev.zeitkammer.load.Loader.Rehearsal;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.ChangedValue;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What a load would do. */
public final class RehearsalOutput {

    private final Output output;

    public RehearsalOutput(Output output) {
        this.output = output;
    }

    public void write(Rehearsal rehearsal, Format format) {
        switch (format) {
            case TEXT -> text(rehearsal);
            case JSON -> output.line(Json.of(json(rehearsal)));
            case CSV -> csv(rehearsal);
        }
    }

    private void text(Rehearsal rehearsal) {
        output.line(Style.strong("Rehearsal") + " for " + rehearsal.load().date() + "; nothing is kept.");
        new LoadOutput(output).counts(rehearsal.load());
        if (rehearsal.changed().isEmpty()) {
            output.line("No value of a member or fact that is there would change.");
            return;
        }
        TextTable table = new TextTable()
                .text("table")
                .text("attribute")
                .number("changes")
                .text("key")
                .text("old → new")
                .text("causes");
        rehearsal.changed().forEach(attribute -> rows(table, attribute));
        output.line("");
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
        return json;
    }

    private static Map<String, Object> json(ChangedAttribute attribute) {
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
        output.line(Csv.line(List.of("table", "attribute", "key", "old", "new", "causes")));
        for (ChangedAttribute attribute : rehearsal.changed()) {
            for (ChangedValue value : attribute.values()) {
                output.line(Csv.line(Arrays.asList(
                        attribute.table(),
                        attribute.attribute(),
                        value.member(),
                        value.before(),
                        value.after(),
                        value.causes())));
            }
        }
    }
}
