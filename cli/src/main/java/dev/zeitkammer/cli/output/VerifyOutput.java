package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.SealBooks.Accepted;
import dev.zeitkammer.verify.Verdict;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** How proofs went. */
public final class VerifyOutput {

    private final Output output;

    public VerifyOutput(Output output) {
        this.output = output;
    }

    public void write(List<Verdict> verdicts, Format format) {
        switch (format) {
            case TEXT -> text(verdicts);
            case JSON ->
                output.data(Json.of(verdicts.stream().map(VerifyOutput::json).toList()));
            case CSV -> {
                output.data(Csv.line(List.of("table", "claim", "holds", "offending")));
                verdicts.forEach(verdict -> output.data(
                        Csv.line(List.of(verdict.table(), verdict.claim(), verdict.holds(), verdict.offending()))));
            }
        }
    }

    /**
     * What was accepted of changes by hand.
     *
     * @param none what is said where nothing was
     */
    public void accepted(List<Accepted> accepted, String none, Format format) {
        switch (format) {
            case TEXT -> {
                if (accepted.isEmpty()) {
                    output.line(none);
                    return;
                }
                TextTable table = new TextTable()
                        .text("table")
                        .number("after load")
                        .number("rows")
                        .text("at (UTC)")
                        .text("by")
                        .prose("reason");
                accepted.forEach(each -> table.row(
                        each.table(),
                        String.valueOf(each.load()),
                        each.rows() > 0 ? "+" + each.rows() : String.valueOf(each.rows()),
                        Values.shown(each.at(), true),
                        each.by(),
                        Values.safe(each.reason())));
                output.block(table.render(""));
            }
            case JSON ->
                output.data(Json.of(accepted.stream().map(VerifyOutput::json).toList()));
            case CSV -> {
                output.data(Csv.line(List.of("table", "load", "rows", "at", "by", "reason")));
                accepted.forEach(
                        each -> output.data(Csv.line(List.copyOf(json(each).values()))));
            }
        }
    }

    private static Map<String, Object> json(Accepted accepted) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", accepted.table());
        json.put("load", accepted.load());
        json.put("rows", accepted.rows());
        json.put("at", Values.plain(accepted.at()));
        json.put("by", accepted.by());
        json.put("reason", accepted.reason());
        return json;
    }

    private void text(List<Verdict> verdicts) {
        String table = "";
        for (Verdict verdict : verdicts) {
            if (!verdict.table().equals(table)) {
                table = verdict.table();
                output.line(Style.strong(table));
            }
            output.line("  " + (verdict.holds() ? Style.good("holds") : Style.bad("fails")) + "  " + verdict.claim()
                    + (verdict.holds()
                            ? ""
                            : ": not for " + verdict.offending() + (verdict.offending() == 1 ? " row" : " rows")));
            if (!verdict.holds()) {
                TextTable examples = RowsOutput.headed(verdict.examples().columns());
                verdict.examples()
                        .rows()
                        .forEach(row ->
                                examples.row(row.stream().map(Values::shown).toList()));
                output.block(examples.render("         "));
            }
        }
        long failed = verdicts.stream().filter(verdict -> !verdict.holds()).count();
        output.line(
                failed == 0
                        ? Style.good("All " + verdicts.size() + " proofs hold.")
                        : Style.bad(failed + " of " + verdicts.size() + " proofs fail."));
    }

    private static Map<String, Object> json(Verdict verdict) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("table", verdict.table());
        json.put("claim", verdict.claim());
        json.put("holds", verdict.holds());
        json.put("offending", verdict.offending());
        json.put(
                "examples",
                verdict.examples().rows().stream()
                        .map(row -> RowsOutput.json(verdict.examples().columns(), row))
                        .toList());
        return json;
    }
}
