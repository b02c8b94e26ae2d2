package dev.zeitkammer.bench;

import com.github.freva.asciitable.AsciiTable;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;

/** Writes what was measured as a table. */
final class Report {

    private static final List<String> HEADER = List.of("work", "floor", "by hand", "zeitkammer", "at most", "is", "MB");

    private Report() {}

    private static List<String> row(Race.Result result) {
        boolean isRatio = !result.work().against().isEmpty();
        return List.of(
                result.work().name(),
                seconds(result, Contestant.FLOOR),
                seconds(result, Contestant.BY_HAND),
                seconds(result, Contestant.PROGRAM),
                result.work().goal(),
                format(result.reached()) + (isRatio ? " x" : " s") + (result.isReached() ? "" : " (missed)"),
                result.of(Contestant.PROGRAM)
                        .map(measure -> String.valueOf(measure.peak()))
                        .orElse(""));
    }

    private static String seconds(Race.Result result, String contestant) {
        return result.of(contestant)
                .map(measure -> format(measure.seconds()) + " s")
                .orElse("");
    }

    private static String format(double number) {
        return String.format(Locale.ROOT, number < 10 ? "%.2f" : "%.1f", number);
    }

    /** For a terminal. */
    static String text(List<Race.Result> results) {
        return AsciiTable.getTable(
                HEADER.toArray(String[]::new),
                results.stream()
                        .map(result -> row(result).toArray(String[]::new))
                        .toArray(String[][]::new));
    }

    /** For a page of the manual. */
    static String markdown(List<Race.Result> results) {
        String rows = results.stream()
                .map(result -> "| " + String.join(" | ", row(result)) + " |")
                .collect(Collectors.joining("\n"));
        return "| " + String.join(" | ", HEADER) + " |\n|" + " --- |".repeat(HEADER.size()) + "\n" + rows;
    }
}
