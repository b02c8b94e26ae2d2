package dev.zeitkammer.cli.output;

import dev.zeitkammer.lineage.Dataset;
import dev.zeitkammer.lineage.Dataset.Kind;
import dev.zeitkammer.lineage.Field;
import dev.zeitkammer.lineage.Flow;
import dev.zeitkammer.lineage.Flow.Part;
import dev.zeitkammer.lineage.Lineage;
import dev.zeitkammer.lineage.Lineage.Named;
import dev.zeitkammer.lineage.Rule;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/** Where a column comes from, as a tree; of a whole table, a line for each column. */
public final class LineageOutput {

    private final Output output;
    private final Lineage lineage;
    private final boolean forward;

    /** @param forward whether what uses a column is shown, rather than what it comes from */
    public LineageOutput(Output output, Lineage lineage, boolean forward) {
        this.output = output;
        this.lineage = lineage;
        this.forward = forward;
    }

    public void write(Named named, Format format) {
        switch (format) {
            case TEXT -> {
                named.column().ifPresentOrElse(this::tree, () -> table(named.dataset()));
                lineage.unread().forEach(note -> output.aside("Note: " + note));
            }
            case JSON -> output.data(Json.of(json(named)));
            case CSV -> csv(named);
        }
    }

    private List<Flow> next(Field field) {
        return forward ? lineage.outOf(field) : lineage.into(field);
    }

    private Field far(Flow flow) {
        return forward ? flow.to() : flow.from();
    }

    private void tree(Field field) {
        output.line(Style.strong(field.toString()) + beside(field));
        if (next(field).isEmpty()) {
            output.line(Style.faint(forward ? "nothing uses it" : "made by the program"));
        }
        branches(field, "", new HashSet<>(Set.of(field)));
        rules(field.dataset(), List.of(field));
    }

    private String beside(Field field) {
        String meaning = lineage.meaning(field);
        return meaning.isEmpty() ? "" : "  " + Style.faint(meaning);
    }

    private void branches(Field field, String margin, Set<Field> above) {
        List<Flow> flows = next(field).stream().filter(flow -> !isSaid(flow)).toList();
        for (int index = 0; index < flows.size(); index++) {
            boolean isLast = index == flows.size() - 1;
            Flow flow = flows.get(index);
            Field far = far(flow);
            String part = flow.part() == Part.VALUE ? "" : flow.part().word() + " ";
            boolean isKnown = !above.add(far);
            String again = isKnown && next(far).stream().anyMatch(each -> !isSaid(each)) ? "  (above)" : "";
            output.line(margin + (isLast ? "└─ " : "├─ ") + Style.faint(part) + far + beside(far) + Style.faint(again));
            if (!isKnown) {
                branches(far, margin + (isLast ? "   " : "│  "), above);
            }
        }
    }

    /** A column of a file is said beside the staged column that it is. */
    private boolean isSaid(Flow flow) {
        return !forward && flow.from().dataset().kind() == Kind.FILES;
    }

    private void rules(Dataset dataset, List<Field> of) {
        List<Rule> rules = lineage.rules(dataset).stream()
                .filter(rule -> !forward || rule.fields().stream().anyMatch(of::contains))
                .toList();
        if (!rules.isEmpty()) {
            output.line("");
            output.line("Rows of " + dataset.name() + ":");
            rules.forEach(rule -> output.line("  " + rule.words()));
        }
    }

    private void table(Dataset dataset) {
        output.line(
                Style.strong(dataset.name()) + Style.faint(", " + dataset.kind().word()));
        TextTable table = new TextTable().text("column").prose("what it is").prose(forward ? "used by" : "comes from");
        for (Field field : lineage.fields(dataset)) {
            table.row(
                    field.name(),
                    lineage.meaning(field),
                    next(field).stream().map(this::shortly).distinct().collect(Collectors.joining(", ")));
        }
        output.block(table.render(""));
        rules(dataset, lineage.fields(dataset));
    }

    private String shortly(Flow flow) {
        Field far = far(flow);
        return far + (flow.part() == Part.VALUE ? "" : " (" + flow.part().word() + ")");
    }

    /** Everything that can be reached from what was named. */
    private Set<Field> reached(Named named) {
        Set<Field> reached = new LinkedHashSet<>();
        named.column().ifPresentOrElse(reached::add, () -> reached.addAll(lineage.fields(named.dataset())));
        List<Field> open = new ArrayList<>(reached);
        while (!open.isEmpty()) {
            for (Flow flow : next(open.remove(open.size() - 1))) {
                if (reached.add(far(flow))) {
                    open.add(far(flow));
                }
            }
        }
        return reached;
    }

    private Map<String, Object> json(Named named) {
        Set<Field> reached = reached(named);
        Map<String, Object> json = new LinkedHashMap<>();
        json.put(
                "name",
                named.column().map(Field::toString).orElse(named.dataset().name()));
        json.put("direction", forward ? "to" : "from");
        json.put("columns", reached.stream().map(this::json).toList());
        json.put(
                "flows",
                reached.stream()
                        .flatMap(field -> next(field).stream())
                        .map(this::json)
                        .toList());
        json.put(
                "rules",
                reached.stream()
                        .map(Field::dataset)
                        .distinct()
                        .flatMap(dataset -> lineage.rules(dataset).stream().map(rule -> json(dataset, rule)))
                        .toList());
        json.put("unread", lineage.unread());
        return json;
    }

    private Map<String, Object> json(Field field) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("in", field.dataset().name());
        json.put("kind", field.dataset().kind().word());
        json.put("column", field.name());
        json.put("what", lineage.meaning(field));
        return json;
    }

    private Map<String, Object> json(Flow flow) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("from", flow.from().toString());
        json.put("to", flow.to().toString());
        json.put("part", flow.part().word());
        return json;
    }

    private Map<String, Object> json(Dataset dataset, Rule rule) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("of", dataset.name());
        json.put("rule", rule.words());
        json.put("columns", rule.fields().stream().map(Field::toString).toList());
        return json;
    }

    private void csv(Named named) {
        output.data(Csv.line(List.of("from", "to", "part")));
        reached(named).stream()
                .flatMap(field -> next(field).stream())
                .distinct()
                .forEach(flow -> output.data(Csv.line(List.of(
                        flow.from().toString(),
                        flow.to().toString(),
                        flow.part().word()))));
    }
}
