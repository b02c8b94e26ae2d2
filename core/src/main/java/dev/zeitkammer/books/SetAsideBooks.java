package dev.zeitkammer.books;

import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.RowForm;
import dev.zeitkammer.staging.WaitingRow;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Rows that were not loaded: those set aside, with the forms they came in, and those that wait. */
public final class SetAsideBooks {

    private final Warehouse warehouse;
    private final BookRows rows;

    public SetAsideBooks(Warehouse warehouse) {
        this.warehouse = warehouse;
        this.rows = new BookRows(warehouse);
    }

    /** Keeps rows that were set aside. */
    public void keep(List<SetAsideRow> aside) {
        if (aside.isEmpty()) {
            return;
        }
        rows.carry(
                BookTable.SET_ASIDE,
                () -> aside.stream().map(SetAsideBooks::values).iterator());
    }

    /** The rows of an input that wait for somebody, the oldest first. */
    public List<WaitingRow> waitingRows(String table, String input) {
        return new Journal(warehouse)
                .waiting("where table_name = ? and input = ?", table, input).stream()
                        .map(WaitingEntry::row)
                        .toList();
    }

    /**
     * Keeps the rows of a table that wait, those that waited and still do among them.
     *
     * @param waited the rows that were staged again
     */
    public void keepWaiting(long load, String table, List<WaitingRow> waited, List<WaitingRow> waiting) {
        for (String input : waited.stream().map(WaitingRow::input).collect(Collectors.toSet())) {
            warehouse.update(
                    "delete from " + warehouse.book("waiting_rows") + " where table_name = ? and input = ?",
                    table,
                    input);
        }
        if (waiting.isEmpty()) {
            return;
        }
        long nth = warehouse.number("select count(*) from " + warehouse.book("waiting_rows") + " where load = " + load);
        List<WaitingRow> kept = new ArrayList<>();
        for (WaitingRow row : waiting) {
            kept.add(row.since() > 0 ? row : row.kept(load, WaitingRow.number(load, ++nth)));
        }
        rows.carry(
                BookTable.WAITING_ROWS,
                () -> kept.stream().map(row -> WaitingEntry.values(table, row)).iterator());
    }

    /** Keeps the forms in which the files of rows came that a load sets aside. */
    public void keepForms(long load, String table, Map<String, RowForm> forms) {
        rows.insert(
                BookTable.FORMS,
                forms.entrySet().stream()
                        .map(form -> List.<@Nullable Object>of(
                                load,
                                table,
                                form.getKey(),
                                form.getValue().kind().name(),
                                form.getValue().encoding(),
                                form.getValue().header()))
                        .toList());
    }

    /** The form in which a file came of which an earlier load kept rows. */
    public Optional<RowForm> form(String table, String file) {
        return new Journal(warehouse).form(table, file);
    }

    private static List<@Nullable Object> values(SetAsideRow row) {
        return Arrays.asList(
                row.load(), row.table(), row.reason(), row.column(), row.value(), row.file(), row.line(), row.text());
    }

    /** How many rows a load has set aside from a table, by reason, the most frequent first. */
    public Map<String, Long> reasons(long load, String table) {
        Map<String, Long> reasons = new LinkedHashMap<>();
        warehouse.query(
                "select reason, coalesce(column_name, ''), count(*) from " + warehouse.book("set_aside")
                        + " where load = ? and table_name = ? group by reason, coalesce(column_name, '') order by 3 desc, 1, 2",
                row -> reasons.put(
                        row.text(1) + (String.valueOf(row.text(2)).isEmpty() ? "" : " (" + row.text(2) + ")"),
                        row.number(3)),
                load,
                table);
        return reasons;
    }
}
