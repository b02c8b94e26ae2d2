package dev.zeitkammer.cli.output;

import dev.zeitkammer.load.Preview.Ready;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The steps of a load with their SQL. */
public final class ExplainOutput {

    private final Output output;

    public ExplainOutput(Output output) {
        this.output = output;
    }

    /** A statement with its name and purpose. */
    private record Entry(String name, String purpose, Optional<String> onlyIf, String sql) {}

    public void write(Ready ready, Format format) {
        List<Entry> entries = entries(ready);
        switch (format) {
            case TEXT -> text(ready, entries);
            case JSON ->
                output.line(Json.of(entries.stream().map(ExplainOutput::json).toList()));
            case CSV -> {
                output.line(Csv.line(List.of("step", "name", "purpose", "sql")));
                for (int index = 0; index < entries.size(); index++) {
                    Entry entry = entries.get(index);
                    output.line(Csv.line(List.of(index + 1, entry.name(), entry.purpose(), entry.sql())));
                }
            }
        }
    }

    private static List<Entry> entries(Ready ready) {
        List<Entry> entries = new ArrayList<>(staging(ready));
        ready.prepared()
                .alignment()
                .statements()
                .forEach(sql ->
                        entries.add(new Entry("align", "Make the table fit its definition.", Optional.empty(), sql)));
        ready.prepared().seeds().forEach(step -> entries.add(entry(step)));
        entries.addAll(entries(ready.prepared().plan()));
        for (Ready feed : ready.feeds()) {
            entries.addAll(staging(feed));
            entries.addAll(entries(feed.prepared().plan()));
        }
        ready.upkeep().ifPresent(plan -> entries.addAll(entries(plan)));
        return entries;
    }

    private static List<Entry> staging(Ready ready) {
        return ready.staged().stream()
                .flatMap(staged -> staged.statements().stream()
                        .map(sql -> new Entry(
                                "stage",
                                "Read " + staged.delivery().shown() + " and convert its values.",
                                Optional.empty(),
                                sql)))
                .toList();
    }

    private static List<Entry> entries(Plan plan) {
        List<Entry> entries = new ArrayList<>();
        plan.steps().forEach(step -> entries.add(entry(step)));
        plan.application().forEach(step -> entries.add(entry(step)));
        plan.counts()
                .forEach(counting -> entries.add(
                        new Entry("count", "The outcomes, for the books.", counting.onlyIf(), counting.sql())));
        plan.lookups()
                .ifPresent(lookups -> entries.add(new Entry(
                        "count lookups",
                        "What the lookups found, for the books.",
                        Optional.empty(),
                        lookups.counts())));
        return entries;
    }

    private static Entry entry(Step step) {
        return new Entry(step.name(), step.purpose(), step.onlyIf(), step.sql());
    }

    private void text(Ready ready, List<Entry> entries) {
        output.line("-- A load of " + ready.definition().table() + " in " + entries.size()
                + " steps, those from \"align\" on in one transaction.");
        for (int index = 0; index < entries.size(); index++) {
            Entry entry = entries.get(index);
            output.line("");
            output.line(Style.strong("-- " + (index + 1) + ". " + entry.name()));
            output.line("-- " + entry.purpose());
            entry.onlyIf().ifPresent(condition -> output.line("-- Only if this is not 0: " + condition));
            output.line(entry.sql() + ";");
        }
    }

    private static Map<String, Object> json(Entry entry) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("name", entry.name());
        json.put("purpose", entry.purpose());
        entry.onlyIf().ifPresent(condition -> json.put("onlyIf", condition));
        json.put("sql", entry.sql());
        return json;
    }
}
