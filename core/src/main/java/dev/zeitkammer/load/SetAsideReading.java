package dev.zeitkammer.load;

import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.Locator;
import dev.zeitkammer.staging.Locator.Located;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.StagedRows.Waits;
import dev.zeitkammer.staging.Unusable;
import dev.zeitkammer.staging.WaitingRow;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Finds out where the rows that a load sets aside stand in their files, and what they say. */
final class SetAsideReading {

    private final Warehouse warehouse;
    private final Stamp stamp;
    private final String table;

    SetAsideReading(Warehouse warehouse, Stamp stamp, String table) {
        this.warehouse = warehouse;
        this.stamp = stamp;
        this.table = table;
    }

    /** What of a delivery is no row. */
    List<SetAsideRow> unusable(StagedRows rows) {
        return rows.unusable().stream().map(this::unusable).toList();
    }

    private SetAsideRow unusable(Unusable lost) {
        return new SetAsideRow(
                stamp.load(), table, lost.reason(), lost.column(), lost.value(), lost.file(), lost.line(), lost.text());
    }

    /** A row that a step set aside or lets wait, by the number of its staged row. */
    private record Aside(
            long row,
            String reason,
            @Nullable String column,
            @Nullable String text,
            boolean waits) {}

    /** What a plan did not load of a delivery. */
    record NotLoaded(List<SetAsideRow> setAside, List<WaitingRow> waiting) {}

    /**
     * The rows that a plan set aside, and those that wait.
     *
     * @param setAside the query that the plan gives for them
     */
    NotLoaded of(String setAside, StagedRows rows) {
        List<Aside> all = warehouse.query(
                setAside,
                row -> new Aside(row.number(1), String.valueOf(row.text(2)), row.text(3), row.text(4), row.flag(5)));
        List<Aside> asides = all.stream().filter(aside -> !aside.waits()).toList();
        Map<Long, Waits> waits = all.stream()
                .filter(Aside::waits)
                .collect(
                        Collectors.toMap(Aside::row, aside -> new Waits(aside.reason(), aside.column(), aside.text())));
        List<WaitingRow> waiting = new ArrayList<>(rows.waiting());
        waiting.addAll(rows.waiting(waits));
        return new NotLoaded(setAside(asides, rows), waiting);
    }

    /** The same where the plan loaded every row that was staged. */
    NotLoaded none(StagedRows rows) {
        return new NotLoaded(List.of(), rows.waiting());
    }

    private List<SetAsideRow> setAside(List<Aside> asides, StagedRows rows) {
        if (asides.isEmpty()) {
            return List.of();
        }
        Map<Long, Located> places = new Locator(rows)
                .locate(asides.stream().map(Aside::row).toList()).stream()
                        .collect(Collectors.toMap(Located::row, Function.identity()));
        return asides.stream()
                .map(aside -> setAside(aside, places.get(aside.row())))
                .toList();
    }

    private SetAsideRow setAside(Aside aside, @Nullable Located place) {
        return new SetAsideRow(
                stamp.load(),
                table,
                aside.reason(),
                aside.column(),
                aside.text(),
                place == null ? null : place.file(),
                place == null ? 0 : place.line(),
                place == null ? null : place.text());
    }
}
