package dev.zeitkammer.books;

import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.staging.RowForm;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/** Reads the books: past loads and rows set aside. */
public final class Journal {

    private static final String LOAD_COLUMNS = "select load, load_date, status, started_at, ended_at from ";

    private final Warehouse warehouse;

    public Journal(Warehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** Every load, the newest last. */
    public List<LoadEntry> loads() {
        if (!hasBooks()) {
            return List.of();
        }
        Map<Long, List<TableEntry>> tables = tables("");
        return warehouse.query(LOAD_COLUMNS + warehouse.book("loads") + " order by load", row -> load(row, tables));
    }

    /** One load. */
    public LoadEntry load(long load) {
        Optional<LoadEntry> found =
                loads().stream().filter(entry -> entry.load() == load).findFirst();
        return found.orElseThrow(
                () -> new ZeitkammerException("There is no load " + load + " in the journal of " + warehouse.title()));
    }

    /** Whether anything was ever loaded. */
    public boolean hasBooks() {
        return Books.stand(warehouse);
    }

    private static LoadEntry load(Row row, Map<Long, List<TableEntry>> tables) {
        return new LoadEntry(
                row.number(1),
                String.valueOf(row.text(2)),
                LoadStatus.fromWord(String.valueOf(row.text(3))),
                Objects.requireNonNull(row.timestamp(4)),
                Optional.ofNullable(row.timestamp(5)),
                tables.getOrDefault(row.number(1), List.of()));
    }

    private record CountKey(long load, String table) {}

    private Map<Long, List<TableEntry>> tables(String condition) {
        Map<CountKey, Map<String, Map<String, Long>>> counts = counts();
        Map<CountKey, List<UnmatchedValue>> unmatched = unmatched();
        Map<Long, List<TableEntry>> tables = new LinkedHashMap<>();
        warehouse.query(
                "select load, table_name, kind, status, seconds, inserted, updated, error from "
                        + warehouse.book("table_loads") + condition + " order by load, "
                        + warehouse.dialect().rowPlace(),
                row -> {
                    CountKey key = new CountKey(row.number(1), String.valueOf(row.text(2)));
                    Map<String, Map<String, Long>> byRole = new LinkedHashMap<>(counts.getOrDefault(key, Map.of()));
                    Map<String, Long> own =
                            Optional.ofNullable(byRole.remove("")).orElse(Map.of());
                    return tables.computeIfAbsent(key.load(), load -> new ArrayList<>())
                            .add(new TableEntry(
                                    key.table(),
                                    String.valueOf(row.text(3)),
                                    LoadStatus.fromWord(String.valueOf(row.text(4))),
                                    Double.parseDouble(String.valueOf(row.text(5))),
                                    row.number(6),
                                    row.number(7),
                                    own,
                                    byRole,
                                    unmatched.getOrDefault(key, List.of()),
                                    Optional.ofNullable(row.text(8))));
                });
        return tables;
    }

    private Map<CountKey, List<UnmatchedValue>> unmatched() {
        Map<CountKey, List<UnmatchedValue>> unmatched = new LinkedHashMap<>();
        warehouse.query(
                "select load, table_name, role, found, natural_key, staged_rows from " + warehouse.book("unmatched")
                        + " order by load, staged_rows desc, role, natural_key",
                row -> unmatched
                        .computeIfAbsent(
                                new CountKey(row.number(1), String.valueOf(row.text(2))), key -> new ArrayList<>())
                        .add(new UnmatchedValue(
                                String.valueOf(row.text(3)),
                                String.valueOf(row.text(4)),
                                String.valueOf(row.text(5)),
                                row.number(6))));
        return unmatched;
    }

    private Map<CountKey, Map<String, Map<String, Long>>> counts() {
        Map<CountKey, Map<String, Map<String, Long>>> counts = new LinkedHashMap<>();
        warehouse.query(
                "select load, table_name, role, name, staged_rows from " + warehouse.book("counts") + " order by "
                        + warehouse.dialect().rowPlace(),
                row -> counts.computeIfAbsent(
                                new CountKey(row.number(1), String.valueOf(row.text(2))), key -> new LinkedHashMap<>())
                        .computeIfAbsent(String.valueOf(row.text(3)), role -> new LinkedHashMap<>())
                        .put(String.valueOf(row.text(4)), row.number(5)));
        return counts;
    }

    /** The rows that a load set aside; all loads when none is named. */
    public List<SetAsideRow> setAside(Optional<Long> load) {
        if (!hasBooks()) {
            return List.of();
        }
        return warehouse.query(
                "select load, table_name, reason, column_name, bad_value, file, line, row_text from "
                        + warehouse.book("set_aside")
                        + " where load = coalesce(?, load) order by load, table_name, file, line",
                row -> new SetAsideRow(
                        row.number(1),
                        String.valueOf(row.text(2)),
                        String.valueOf(row.text(3)),
                        row.text(4),
                        row.text(5),
                        row.text(6),
                        row.number(7),
                        row.text(8)),
                load.orElse(null));
    }

    /** The form in which the rows of a file came that a load set aside. */
    public Optional<RowForm> form(SetAsideRow row) {
        return warehouse
                .query(
                        "select kind, encoding, header from " + warehouse.book("forms")
                                + " where load = ? and table_name = ? and file = ?",
                        found -> new RowForm(
                                RowForm.Kind.valueOf(String.valueOf(found.text(1))),
                                String.valueOf(found.text(2)),
                                String.valueOf(found.text(3))),
                        row.load(),
                        row.table(),
                        row.file())
                .stream()
                .findFirst();
    }

    /**
     * The greatest value of a running column that a table has loaded.
     *
     * @param input the input whose column it is
     */
    public record Mark(String table, String input, String column, String mark) {}

    /** Every high-water mark. */
    public List<Mark> marks() {
        if (!hasBooks()) {
            return List.of();
        }
        return warehouse.query(
                "select table_name, input, column_name, mark from " + warehouse.book("marks")
                        + " order by table_name, input",
                row -> new Mark(
                        String.valueOf(row.text(1)),
                        String.valueOf(row.text(2)),
                        String.valueOf(row.text(3)),
                        String.valueOf(row.text(4))));
    }

    /** The last load for a date that brought all of some tables to their end, if there was one. */
    public Optional<LoadEntry> doneFor(String date, Set<String> tables) {
        return hasBooks()
                ? loads().stream()
                        .filter(load -> load.date().equals(date) && isDone(load, tables))
                        .reduce((first, second) -> second)
                : Optional.empty();
    }

    private static boolean isDone(LoadEntry load, Set<String> tables) {
        Map<String, LoadStatus> ended = new LinkedHashMap<>();
        load.tables().forEach(entry -> ended.put(entry.table(), entry.status()));
        return ended.containsValue(LoadStatus.DONE)
                && tables.stream()
                        .allMatch(
                                table -> ended.get(table) == LoadStatus.DONE || ended.get(table) == LoadStatus.SKIPPED);
    }
}
