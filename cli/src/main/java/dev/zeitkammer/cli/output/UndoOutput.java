package dev.zeitkammer.cli.output;

import dev.zeitkammer.load.Undo.Undone;
import dev.zeitkammer.past.TakingBack.Taken;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Predicate;
import java.util.stream.Collectors;

/** Loads that were taken back. */
public final class UndoOutput {

    private final Output output;

    public UndoOutput(Output output) {
        this.output = output;
    }

    /** @param show whether nothing was changed */
    public void write(List<Undone> loads, boolean show, Format format) {
        switch (format) {
            case TEXT -> loads.forEach(load -> text(load, show));
            case JSON ->
                output.data(Json.of(loads.stream().map(UndoOutput::json).toList()));
            case CSV -> {
                output.data(Csv.line(List.of("load", "date", "table", "removed", "restored")));
                loads.forEach(load -> load.tables()
                        .forEach(table -> output.data(Csv.line(
                                List.of(load.load(), load.date(), table.table(), table.removed(), table.restored())))));
            }
        }
    }

    private void text(Undone load, boolean show) {
        output.line(Style.strong("Load " + load.load()) + " for " + load.date() + ": "
                + (show ? "would be taken back; nothing was changed." : "taken back"));
        List<Taken> changed = load.tables().stream()
                .filter(taken -> taken.removed() + taken.restored() > 0)
                .toList();
        if (changed.isEmpty()) {
            output.line(" It had changed no row.");
            return;
        }
        TextTable table = new TextTable().text("table").number("rows removed").number("rows restored");
        changed.forEach(
                taken -> table.row(taken.table(), Values.count(taken.removed()), Values.count(taken.restored())));
        output.block(table.render(" "));
    }

    /**
     * How what was taken back is loaded again, and leaves the files that others read.
     *
     * @param isPublished whether a table of this name is written out
     */
    public void next(List<Undone> loads, Predicate<String> isPublished) {
        String date = loads.get(loads.size() - 1).date();
        output.aside("What was read is loaded again by: zeitkammer load --date " + date);
        String published = loads.stream()
                .flatMap(load -> load.tables().stream())
                .filter(taken -> taken.removed() + taken.restored() > 0)
                .map(Taken::table)
                .filter(isPublished)
                .distinct()
                .collect(Collectors.joining(" "));
        if (!published.isEmpty()) {
            output.aside("The published files still say what they said; they are written anew by: zeitkammer publish "
                    + published);
        }
    }

    private static Map<String, Object> json(Undone load) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("load", load.load());
        json.put("date", load.date());
        json.put("tables", load.tables().stream().map(UndoOutput::json).toList());
        return json;
    }

    private static Map<String, Object> json(Taken taken) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", taken.table());
        json.put("removed", taken.removed());
        json.put("restored", taken.restored());
        return json;
    }
}
