package dev.zeitkammer.reference;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Consumer;

/** Chooses among the rows of a member those that count: one a moment, and none where they contradict each other. */
final class OneAMoment {

    private final Settings settings;
    private final Consumer<String> count;
    private final Map<List<String>, Map<LocalDate, List<Waiting<StagedRow>>>> rows = new HashMap<>();

    /** @param count is told the outcome of each row that does not count */
    OneAMoment(Settings settings, Consumer<String> count) {
        this.settings = settings;
        this.count = count;
    }

    void add(List<String> key, LocalDate moment, Waiting<StagedRow> row) {
        rows.computeIfAbsent(key, member -> new TreeMap<>())
                .computeIfAbsent(moment, at -> new ArrayList<>())
                .add(row);
    }

    TreeMap<LocalDate, Waiting<StagedRow>> of(List<String> key) {
        TreeMap<LocalDate, Waiting<StagedRow>> chosen = new TreeMap<>();
        rows.getOrDefault(key, Map.of()).forEach((at, all) -> {
            long newest = all.stream().mapToLong(Waiting::since).max().orElseThrow();
            List<StagedRow> same = all.stream()
                    .filter(row -> row.since() == newest)
                    .map(Waiting::row)
                    .toList();
            tell("unchanged", all.size() - same.size());
            List<StagedRow> best = settings.lastBy() ? latestSent(same) : same;
            StagedRow first = best.get(0);
            if (best.stream().anyMatch(row -> differ(row, first))) {
                tell("setAside", same.size());
                return;
            }
            int others = (int) same.stream().filter(row -> differ(row, first)).count();
            tell("repeated", same.size() - others - 1);
            tell("unchanged", others);
            chosen.put(at, new Waiting<>(first, newest));
        });
        return chosen;
    }

    private void tell(String outcome, int rows) {
        for (int row = 0; row < rows; row++) {
            count.accept(outcome);
        }
    }

    private boolean differ(StagedRow one, StagedRow other) {
        return !one.loaded(settings).equals(other.loaded(settings));
    }

    private static List<StagedRow> latestSent(List<StagedRow> rows) {
        int last = rows.stream().mapToInt(OneAMoment::sent).max().orElseThrow();
        return rows.stream().filter(row -> sent(row) == last).toList();
    }

    private static int sent(StagedRow row) {
        return row.sent() == null ? -1 : row.sent();
    }
}
