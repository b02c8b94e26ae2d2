package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.ExtraRun;
import dev.zeitkammer.books.JudgedAssertion;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Loads and what they did to each table. */
public final class LoadOutput {

    private static final int VALUES_SHOWN = 5;

    private static final Map<String, String> SPOKEN = Map.of("setAside", "set aside");

    private final Output output;
    private final boolean everyLookup;

    public LoadOutput(Output output) {
        this(output, false);
    }

    /** @param everyLookup whether lookups are shown too that found a member for every row */
    public LoadOutput(Output output, boolean everyLookup) {
        this.output = output;
        this.everyLookup = everyLookup;
    }

    /** Loads in the form asked for; one JSON object, or an array when several were asked for. */
    public void write(List<LoadEntry> loads, boolean several, Format format) {
        switch (format) {
            case TEXT -> loads.forEach(this::text);
            case JSON ->
                output.data(
                        Json.of(several ? loads.stream().map(LoadOutput::json).toList() : json(loads.get(0))));
            case CSV -> csv(loads);
        }
    }

    /** One load for people. */
    public void text(LoadEntry load) {
        output.line(Style.strong("Load " + load.load()) + " for " + load.date() + ": " + status(load) + duration(load));
        counts(load);
        extra(load);
        remarks(load);
    }

    /** How extra steps went; of those that failed, what they said. */
    void extra(LoadEntry load) {
        if (!load.extra().isEmpty()) {
            output.line("");
        }
        for (ExtraRun run : load.extra()) {
            boolean isRun = !run.status().equals(ExtraRun.WOULD_RUN);
            String status = run.isDone() ? run.status() : Style.bad(run.status());
            output.line("  " + run.name() + " (" + run.where() + "): " + status
                    + (isRun ? " in " + seconds(run.seconds()) + " s" : ""));
            if (!run.isDone()) {
                run.output().lines().forEach(line -> output.line("    " + Values.safe(line)));
            }
        }
    }

    /** The counts of one load, for people. */
    void counts(LoadEntry load) {
        List<String> blocks = new ArrayList<>();
        tables(load, "dimension").ifPresent(blocks::add);
        tables(load, "fact").ifPresent(blocks::add);
        lookups(load).ifPresent(blocks::add);
        assertions(load).ifPresent(blocks::add);
        output.block(String.join("\n", blocks));
    }

    private static String status(LoadEntry load) {
        return load.status() == LoadStatus.RUNNING || load.ended().isEmpty()
                ? Style.bad("cut off")
                : status(load.status());
    }

    static String status(LoadStatus status) {
        return switch (status) {
            case DONE -> Style.good(status.word());
            case SKIPPED, UNDONE -> Style.faint(status.word());
            case FAILED, STOPPED, BLOCKED, RUNNING -> Style.bad(status.word());
        };
    }

    private static String duration(LoadEntry load) {
        return load.ended()
                .map(ended ->
                        " in " + seconds(Duration.between(load.started(), ended).toMillis() / 1000.0) + " s")
                .orElse("");
    }

    static String seconds(double seconds) {
        return String.format(Locale.ROOT, "%.2f", seconds);
    }

    private Optional<String> tables(LoadEntry load, String kind) {
        List<TableEntry> loaded = load.tables().stream()
                .filter(table -> table.kind().equals(kind) && table.status() == LoadStatus.DONE)
                .toList();
        if (loaded.isEmpty()) {
            return Optional.empty();
        }
        List<String> names = List.copyOf(loaded.get(0).counts().keySet());
        TextTable table = new TextTable().text(kind);
        names.forEach(name -> table.number(SPOKEN.getOrDefault(name, name)));
        table.number("seconds");
        for (TableEntry entry : loaded) {
            List<String> cells = new ArrayList<>();
            cells.add(entry.table());
            names.forEach(name -> cells.add(
                    name.equals("staged") ? String.valueOf(entry.count(name)) : Values.count(entry.count(name))));
            cells.add(seconds(entry.seconds()));
            table.row(cells);
        }
        return Optional.of(table.withoutEmptyNumbers().render(" "));
    }

    /** Lookups that did not find a member for every row, or all of them. */
    private Optional<String> lookups(LoadEntry load) {
        TextTable table = new TextTable().text("lookup");
        boolean any = false;
        for (TableEntry entry : load.tables()) {
            for (Map.Entry<String, Map<String, Long>> lookup : entry.lookups().entrySet()) {
                Map<String, Long> counts = lookup.getValue();
                boolean smooth = counts.entrySet().stream()
                        .allMatch(count -> count.getKey().equals("matched") || count.getValue() == 0);
                if (smooth && !everyLookup) {
                    continue;
                }
                if (!any) {
                    counts.keySet().forEach(table::number);
                    any = true;
                }
                List<String> cells = new ArrayList<>();
                cells.add(entry.table() + "." + lookup.getKey());
                counts.values().forEach(count -> cells.add(Values.count(count)));
                table.row(cells);
            }
        }
        return any ? Optional.of(table.withoutEmptyNumbers().render(" ")) : Optional.empty();
    }

    /** The assertions that fail. */
    private Optional<String> assertions(LoadEntry load) {
        TextTable table = new TextTable()
                .text("table")
                .text("assertion that fails")
                .text("asserted")
                .text("found")
                .text("otherwise");
        boolean any = false;
        for (TableEntry entry : load.tables()) {
            for (JudgedAssertion judged : entry.assertions()) {
                if (!judged.holds()) {
                    table.row(List.of(
                            entry.table(), judged.name(), judged.asserted(), judged.found(), judged.otherwise()));
                    any = true;
                }
            }
        }
        return any ? Optional.of(table.render(" ")) : Optional.empty();
    }

    private void remarks(LoadEntry load) {
        for (TableEntry entry : load.tables()) {
            entry.error()
                    .ifPresent(why -> output.line("  " + entry.table()
                            + (entry.status() == LoadStatus.DONE ? "" : " " + status(entry.status())) + ": " + why));
        }
        if (load.tables().stream()
                .flatMap(entry -> entry.unmatched().stream())
                .anyMatch(value -> !value.found().equals("blank"))) {
            output.line("");
        }
        load.tables().forEach(this::nobody);
        long aside = sum(load, "setAside");
        if (aside > 0) {
            output.line("  " + aside + (aside == 1 ? " row was" : " rows were")
                    + " set aside; see: zeitkammer set-aside " + load.load());
        }
        long waiting = sum(load, "waiting");
        if (waiting > 0) {
            output.line("  " + waiting + (waiting == 1 ? " row waits" : " rows wait")
                    + " to be staged again with the next delivery; see: zeitkammer set-aside --waiting");
        }
    }

    private static long sum(LoadEntry load, String count) {
        return load.tables().stream().mapToLong(entry -> entry.count(count)).sum();
    }

    /** Natural keys for which lookups found nobody, the most frequent first. */
    private void nobody(TableEntry entry) {
        Map<String, List<UnmatchedValue>> byRole = new LinkedHashMap<>();
        entry.unmatched().stream()
                .filter(value -> !value.found().equals("blank"))
                .forEach(value -> byRole.computeIfAbsent(
                                value.role()
                                        + (value.found().equals("unmatched") ? " found nobody" : " made placeholders"),
                                role -> new ArrayList<>())
                        .add(value));
        byRole.forEach((role, values) -> {
            String shown = values.stream()
                    .limit(VALUES_SHOWN)
                    .map(value -> value.value() + " (" + value.rows() + (value.rows() == 1 ? " row)" : " rows)"))
                    .collect(Collectors.joining(", "));
            int more = values.size() - VALUES_SHOWN;
            output.line(
                    "  " + entry.table() + "." + role + " for " + shown + (more > 0 ? " and " + more + " more" : ""));
        });
    }

    static Map<String, Object> json(LoadEntry load) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("load", load.load());
        json.put("date", load.date());
        json.put("status", load.status().word());
        json.put("started", load.started() + "Z");
        load.ended().ifPresent(ended -> json.put("ended", ended + "Z"));
        json.put("tables", load.tables().stream().map(LoadOutput::json).toList());
        if (!load.extra().isEmpty()) {
            json.put("extra", load.extra().stream().map(LoadOutput::json).toList());
        }
        return json;
    }

    private static Map<String, Object> json(TableEntry entry) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", entry.table());
        json.put("kind", entry.kind());
        json.put("status", entry.status().word());
        json.put("seconds", entry.seconds());
        entry.error().ifPresent(why -> json.put(entry.status() == LoadStatus.DONE ? "note" : "error", why));
        if (entry.status() == LoadStatus.DONE) {
            Map<String, Object> rows = new LinkedHashMap<>();
            rows.put("inserted", entry.inserted());
            rows.put("updated", entry.updated());
            json.put("rows", rows);
            json.put("counts", entry.counts());
            if (entry.kind().equals("fact") || !entry.lookups().isEmpty()) {
                json.put("lookups", entry.lookups());
            }
            if (!entry.assertions().isEmpty()) {
                json.put(
                        "assertions",
                        entry.assertions().stream().map(LoadOutput::json).toList());
            }
            if (!entry.unmatched().isEmpty()) {
                json.put(
                        "unmatched",
                        entry.unmatched().stream().map(LoadOutput::json).toList());
            }
        }
        return json;
    }

    private static Map<String, Object> json(ExtraRun run) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("name", run.name());
        json.put("where", run.where());
        json.put("status", run.status());
        json.put("seconds", run.seconds());
        json.put("output", run.output());
        return json;
    }

    private static Map<String, Object> json(JudgedAssertion judged) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("name", judged.name());
        json.put("asserted", judged.asserted());
        json.put("found", judged.found());
        json.put("rows", judged.broken());
        json.put("otherwise", judged.otherwise());
        json.put("holds", judged.holds());
        return json;
    }

    private static Map<String, Object> json(UnmatchedValue value) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("role", value.role());
        json.put("found", value.found());
        json.put("value", value.value());
        json.put("rows", value.rows());
        return json;
    }

    private void csv(List<LoadEntry> loads) {
        output.data(Csv.line(List.of("load", "date", "table", "kind", "status", "lookup", "count", "rows")));
        for (LoadEntry load : loads) {
            for (TableEntry entry : load.tables()) {
                if (entry.counts().isEmpty()) {
                    csv(load, entry, "", null, null);
                }
                csv(load, entry, "", entry.counts());
                entry.lookups().forEach((role, counts) -> csv(load, entry, role, counts));
            }
        }
    }

    private void csv(LoadEntry load, TableEntry entry, String role, Map<String, Long> counts) {
        counts.forEach((name, rows) -> csv(load, entry, role, name, rows));
    }

    /** One count; a table that was not loaded has one line without any. */
    private void csv(LoadEntry load, TableEntry entry, String role, @Nullable String name, @Nullable Long rows) {
        output.data(Csv.line(Arrays.asList(
                load.load(),
                load.date(),
                entry.table(),
                entry.kind(),
                entry.status().word(),
                role.isEmpty() ? null : role,
                name,
                rows)));
    }
}
