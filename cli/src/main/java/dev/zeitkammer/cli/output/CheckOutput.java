package dev.zeitkammer.cli.output;

import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.load.Checker.Finding;
import dev.zeitkammer.load.Checker.Report;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What a check found. */
public final class CheckOutput {

    private final Output output;

    public CheckOutput(Output output) {
        this.output = output;
    }

    public void write(Report report, Format format, boolean quiet) {
        switch (format) {
            case TEXT -> text(report, quiet);
            case JSON -> json(report);
            case CSV -> csv(report);
        }
    }

    private void text(Report report, boolean quiet) {
        report.problems().forEach(problem -> output.error(problem.toString()));
        report.failures().forEach(output::error);
        if (quiet) {
            return;
        }
        TextTable table = new TextTable().text("table").prose("found");
        report.findings().forEach(finding -> table.row(finding.table(), finding.text()));
        if (!report.findings().isEmpty()) {
            output.block(table.render(""));
        }
        if (report.isSound()) {
            output.line(Style.good("No errors."));
        }
    }

    private void json(Report report) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("sound", report.isSound());
        json.put("problems", report.problems().stream().map(CheckOutput::json).toList());
        json.put("failures", report.failures());
        json.put("findings", report.findings().stream().map(CheckOutput::json).toList());
        output.data(Json.of(json));
    }

    private static Map<String, Object> json(Problem problem) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("file", problem.place().file());
        json.put("line", problem.place().line());
        json.put("column", problem.place().column());
        json.put("message", problem.message());
        return json;
    }

    private static Map<String, Object> json(Finding finding) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", finding.table());
        json.put("text", finding.text());
        return json;
    }

    private void csv(Report report) {
        output.data(Csv.line(List.of("kind", "where", "text")));
        report.problems()
                .forEach(problem ->
                        output.data(Csv.line(List.of("error", problem.place().toString(), problem.message()))));
        report.failures().forEach(text -> output.data(Csv.line(Arrays.asList("error", null, text))));
        report.findings()
                .forEach(finding -> output.data(Csv.line(List.of("finding", finding.table(), finding.text()))));
    }
}
