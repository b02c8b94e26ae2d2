package dev.zeitkammer.cli.output;

import dev.zeitkammer.publish.Publishing.Published;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What was published. */
public final class PublishOutput {

    private final Output output;

    public PublishOutput(Output output) {
        this.output = output;
    }

    public void write(List<Published> published, Format format) {
        switch (format) {
            case TEXT -> text(published);
            case JSON ->
                output.data(Json.of(published.stream().map(PublishOutput::json).toList()));
            case CSV -> {
                output.data(Csv.line(List.of("table", "written", "load", "rows", "files", "bytes", "folder")));
                published.forEach(each -> output.data(Csv.line(List.of(
                        each.table(),
                        each.isWritten(),
                        each.load(),
                        each.rows(),
                        each.files(),
                        each.bytes(),
                        each.folder()))));
            }
        }
    }

    private void text(List<Published> published) {
        TextTable table = new TextTable()
                .text("table")
                .text("files")
                .number("of load")
                .number("rows")
                .number("number")
                .number("bytes")
                .text("folder");
        for (Published each : published) {
            table.row(List.of(
                    each.table(),
                    each.isWritten() ? "written" : "unchanged",
                    String.valueOf(each.load()),
                    String.valueOf(each.rows()),
                    String.valueOf(each.files()),
                    String.valueOf(each.bytes()),
                    each.folder().toString()));
        }
        output.block(table.render(" "));
    }

    private static Map<String, Object> json(Published each) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", each.table());
        json.put("written", each.isWritten());
        json.put("load", each.load());
        json.put("rows", each.rows());
        json.put("files", each.files());
        json.put("bytes", each.bytes());
        json.put("folder", each.folder().toString());
        return json;
    }
}
