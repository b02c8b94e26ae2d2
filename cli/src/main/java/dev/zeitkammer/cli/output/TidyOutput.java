package dev.zeitkammer.cli.output;

import dev.zeitkammer.engine.Upkeep;
import dev.zeitkammer.engine.Upkeep.Size;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What upkeep of files did. */
public final class TidyOutput {

    private final Output output;

    public TidyOutput(Output output) {
        this.output = output;
    }

    public void write(List<Upkeep> done, Format format) {
        switch (format) {
            case TEXT -> text(done);
            case JSON -> output.data(Json.of(done.stream().map(TidyOutput::json).toList()));
            case CSV -> {
                output.data(Csv.line(List.of("what", "files_before", "files_after", "bytes_before", "bytes_after")));
                done.forEach(each -> output.data(Csv.line(Arrays.asList(
                        each.what(),
                        files(each.before()),
                        files(each.after()),
                        each.before().bytes(),
                        each.after().bytes()))));
            }
        }
    }

    private void text(List<Upkeep> done) {
        TextTable table = new TextTable()
                .text("table")
                .number("files before")
                .number("after")
                .number("room before")
                .number("after");
        done.forEach(each -> table.row(
                each.what(),
                shown(files(each.before())),
                shown(files(each.after())),
                Values.room(each.before().bytes()),
                Values.room(each.after().bytes())));
        output.block(table.render(" "));
        output.line(freed(done));
    }

    /** In one sentence. */
    public static String freed(List<Upkeep> done) {
        long saved = done.stream()
                .mapToLong(each -> each.before().bytes() - each.after().bytes())
                .sum();
        if (saved < 0) {
            return Values.room(-saved)
                    + " more are taken: a server notes which room in its tables is free for new rows.";
        }
        return saved > 0 ? Values.room(saved) + " were freed." : "Nothing was to be freed.";
    }

    private static @Nullable Long files(Size size) {
        return size.files().isPresent() ? size.files().getAsLong() : null;
    }

    private static String shown(@Nullable Long files) {
        return files == null ? "" : Values.count(files);
    }

    private static Map<String, @Nullable Object> json(Upkeep each) {
        Map<String, @Nullable Object> json = new LinkedHashMap<>();
        json.put("what", each.what());
        json.put("files_before", files(each.before()));
        json.put("files_after", files(each.after()));
        json.put("bytes_before", each.before().bytes());
        json.put("bytes_after", each.after().bytes());
        return json;
    }
}
