package dev.zeitkammer.cli.output;

import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.view.MemberHistory;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** The versions of a member: side by side for people, with the changed values marked. */
public final class HistoryOutput {

    private static final int SIDE_BY_SIDE = 5;
    private static final String MARK = "◀";
    private static final Pattern MARKED = Pattern.compile("\\S+(?: \\S+)* " + MARK);

    private final Output output;
    private final Stamps stamps;

    public HistoryOutput(Output output, Stamps stamps) {
        this.output = output;
        this.stamps = stamps;
    }

    public void write(MemberHistory history, Format format) {
        switch (format) {
            case TEXT -> text(history);
            case JSON -> output.data(Json.of(json(history)));
            case CSV -> {
                output.data(
                        Csv.line(history.columns().stream().map(Column::name).toList()));
                history.versions().forEach(version -> output.data(Csv.line(version)));
            }
        }
    }

    private void text(MemberHistory history) {
        int count = history.versions().size();
        String key = String.join(
                ", ", history.dimension().key().stream().map(Word::text).toList());
        output.line(Style.strong(history.dimension().table()) + ", member " + member(history) + " (" + key + "): "
                + count + (count == 1 ? " version" : " versions"));
        for (int first = 0; first < count; first += SIDE_BY_SIDE) {
            versions(history, first, Math.min(count, first + SIDE_BY_SIDE));
        }
        if (count > 1) {
            output.line(Style.faint(" " + MARK + " differs from the version before"));
        }
    }

    private static String member(MemberHistory history) {
        List<String> values = new ArrayList<>();
        for (Word key : history.dimension().key()) {
            for (int column = 0; column < history.columns().size(); column++) {
                if (history.columns().get(column).name().equals(key.text())) {
                    values.add(Values.shown(history.versions().get(0).get(column)));
                }
            }
        }
        return String.join(", ", values);
    }

    private void versions(MemberHistory history, int from, int to) {
        TextTable table = new TextTable().text("");
        for (int version = from; version < to; version++) {
            table.text("version " + (version + 1));
        }
        for (int column = 0; column < history.columns().size(); column++) {
            List<String> cells = new ArrayList<>();
            String name = history.columns().get(column).name();
            cells.add(name);
            for (int version = from; version < to; version++) {
                String value = Values.shown(history.versions().get(version).get(column), stamps.isTime(name));
                cells.add(history.changed().get(version).contains(name) ? value + " " + MARK : value);
            }
            table.row(cells);
        }
        output.block(highlighted(table.render("")));
    }

    private static String highlighted(String text) {
        return MARKED.matcher(text).replaceAll(found -> Matcher.quoteReplacement(Style.changed(found.group())));
    }

    private static Map<String, Object> json(MemberHistory history) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", history.dimension().table());
        List<Map<String, @Nullable Object>> versions = new ArrayList<>();
        for (int version = 0; version < history.versions().size(); version++) {
            Map<String, @Nullable Object> row =
                    RowsOutput.json(history.columns(), history.versions().get(version));
            Set<String> changed = history.changed().get(version);
            Map<String, @Nullable Object> entry = new LinkedHashMap<>();
            entry.put("row", row);
            entry.put(
                    "changed",
                    history.columns().stream()
                            .map(Column::name)
                            .filter(changed::contains)
                            .toList());
            versions.add(entry);
        }
        json.put("versions", versions);
        return json;
    }
}
