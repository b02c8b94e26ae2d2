package dev.zeitkammer.cli.output;

import dev.zeitkammer.books.SealBooks.Accepted;
import dev.zeitkammer.seal.AlteredValue;
import dev.zeitkammer.seal.Seals;
import dev.zeitkammer.verify.Verdict;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/** How proofs went. */
public final class VerifyOutput {

    /** From where a value is known that somebody changed. */
    public enum Known {
        PUBLISHED("as it was published"),
        BEFORE_LOAD("before the load that wrote it last");

        private final String heading;

        Known(String heading) {
            this.heading = heading;
        }
    }

    /** Values of a table that somebody changed. */
    public record Altered(Known known, List<AlteredValue> values) {

        static final Altered NONE = new Altered(Known.PUBLISHED, List.of());

        public Altered {
            values = List.copyOf(values);
        }
    }

    private final Output output;

    public VerifyOutput(Output output) {
        this.output = output;
    }

    /** @param altered of tables that were changed by hand, the values that are known to differ */
    public void write(List<Verdict> verdicts, Map<String, Altered> altered, Format format) {
        switch (format) {
            case TEXT -> text(verdicts, altered);
            case JSON ->
                output.data(Json.of(
                        verdicts.stream().map(verdict -> json(verdict, altered)).toList()));
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

    private void text(List<Verdict> verdicts, Map<String, Altered> altered) {
        String table = "";
        for (Verdict verdict : verdicts) {
            if (!verdict.table().equals(table)) {
                table = verdict.table();
                output.line(Style.strong(table));
            }
            output.line("  " + (verdict.holds() ? Style.good("holds") : Style.bad("fails")) + "  " + verdict.claim()
                    + (verdict.holds()
                            ? ""
                            : ": not for " + verdict.offending() + " " + verdict.of()
                                    + (verdict.offending() == 1 ? "" : "s")));
            if (!verdict.holds()) {
                TextTable examples = RowsOutput.headed(verdict.examples().columns());
                verdict.examples()
                        .rows()
                        .forEach(row ->
                                examples.row(row.stream().map(Values::shown).toList()));
                output.block(examples.render("         "));
                if (verdict.claim().equals(Seals.CLAIM)) {
                    values(altered.getOrDefault(verdict.table(), Altered.NONE));
                }
            }
        }
        long failed = verdicts.stream().filter(verdict -> !verdict.holds()).count();
        output.line(
                failed == 0
                        ? Style.good("All " + verdicts.size() + " proofs hold.")
                        : Style.bad(failed + " of " + verdicts.size() + " proofs fail."));
    }

    private void values(Altered altered) {
        if (!altered.values().isEmpty()) {
            TextTable table = new TextTable()
                    .text("row")
                    .text("column")
                    .text(altered.known().heading)
                    .text("as it stands");
            altered.values()
                    .forEach(each -> table.row(
                            Values.safe(each.row()),
                            each.column(),
                            Values.shown(each.known()),
                            Values.shown(each.standing())));
            output.block(table.render("         "));
        }
    }

    private static Map<String, Object> json(Verdict verdict, Map<String, Altered> altered) {
        Map<String, Object> json = json(verdict);
        Altered values = altered.getOrDefault(verdict.table(), Altered.NONE);
        if (verdict.claim().equals(Seals.CLAIM) && !values.values().isEmpty()) {
            json.put(
                    "changed",
                    values.values().stream()
                            .map(each -> json(each, values.known()))
                            .toList());
        }
        return json;
    }

    private static Map<String, Object> json(AlteredValue value, Known known) {
        Map<String, Object> json = new LinkedHashMap<>();
        json.put("row", value.row());
        json.put("column", value.column());
        json.put(known.name().toLowerCase(Locale.ROOT), value.known());
        json.put("standing", value.standing());
        return json;
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
