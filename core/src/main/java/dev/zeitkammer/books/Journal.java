package dev.zeitkammer.books;

import dev.zeitkammer.books.TableEntry.UnmatchedValue;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.RowForm;
import dev.zeitkammer.staging.WaitingRow;
import java.time.LocalDate;
import java.time.temporal.ChronoUnit;
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
        Map<Long, List<ExtraRun>> extra = extra();
        return warehouse.query(
                LOAD_COLUMNS + warehouse.book("loads") + " order by load", row -> load(row, tables, extra));
    }

    /** The newest load that was done, without what it did to tables; empty where there is none. */
    public Optional<LoadEntry> newestDone() {
        return hasBooks()
                ? warehouse
                        .query(
                                LOAD_COLUMNS + warehouse.book("loads") + " where load = (select max(load) from "
                                        + warehouse.book("loads") + " where status = 'done')",
                                row -> load(row, Map.of(), Map.of()))
                        .stream()
                        .findFirst()
                : Optional.empty();
    }

    /** One load. */
    public LoadEntry load(long load) {
        Optional<LoadEntry> found =
                loads().stream().filter(entry -> entry.load() == load).findFirst();
        return found.orElseThrow(
                () -> new UsageException("There is no load " + load + " in the journal of " + warehouse.title()));
    }

    /** Whether anything was ever loaded. */
    public boolean hasBooks() {
        return Books.stand(warehouse);
    }

    private static LoadEntry load(Row row, Map<Long, List<TableEntry>> tables, Map<Long, List<ExtraRun>> extra) {
        return new LoadEntry(
                row.number(1),
                String.valueOf(row.text(2)),
                LoadStatus.fromWord(String.valueOf(row.text(3))),
                Objects.requireNonNull(row.timestamp(4)),
                Optional.ofNullable(row.timestamp(5)),
                tables.getOrDefault(row.number(1), List.of()),
                extra.getOrDefault(row.number(1), List.of()));
    }

    private record CountKey(long load, String table) {}

    /** What one load did to one table. */
    public Optional<TableEntry> entry(long load, String table) {
        String condition = " where load = " + load + " and table_name = "
                + warehouse.dialect().text(table);
        return tables(condition).getOrDefault(load, List.of()).stream().findFirst();
    }

    /** @param condition on the load and the name of the table */
    private Map<Long, List<TableEntry>> tables(String condition) {
        Map<CountKey, Map<String, Map<String, Long>>> counts = counts(condition);
        Map<CountKey, List<UnmatchedValue>> unmatched = unmatched(condition);
        Map<CountKey, List<JudgedAssertion>> assertions = assertions(condition);
        Map<Long, List<TableEntry>> tables = new LinkedHashMap<>();
        warehouse.query(
                "select load, table_name, kind, status, seconds, inserted, updated, error from "
                        + warehouse.book("table_loads") + condition + " order by load, "
                        + warehouse.dialect().rowPlace() + ", kind, table_name",
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
                                    assertions.getOrDefault(key, List.of()),
                                    Optional.ofNullable(row.text(8))));
                });
        return tables;
    }

    private Map<Long, List<ExtraRun>> extra() {
        Map<Long, List<ExtraRun>> extra = new LinkedHashMap<>();
        if (Books.has(warehouse, BookTable.EXTRA_STEPS)) {
            warehouse.query(
                    "select load, name, place, status, seconds, output from " + warehouse.book("extra_steps")
                            + " order by load, " + warehouse.dialect().rowPlace(),
                    row -> extra.computeIfAbsent(row.number(1), load -> new ArrayList<>())
                            .add(new ExtraRun(
                                    String.valueOf(row.text(2)),
                                    String.valueOf(row.text(3)),
                                    String.valueOf(row.text(4)),
                                    Double.parseDouble(String.valueOf(row.text(5))),
                                    Optional.ofNullable(row.text(6)).orElse(""))));
        }
        return extra;
    }

    private Map<CountKey, List<JudgedAssertion>> assertions(String condition) {
        Map<CountKey, List<JudgedAssertion>> assertions = new LinkedHashMap<>();
        if (Books.has(warehouse, BookTable.ASSERTIONS)) {
            warehouse.query(
                    "select load, table_name, name, asserted, found, broken, otherwise, "
                            + warehouse.dialect().asText("holds")
                            + " from " + warehouse.book("assertions") + condition + " order by load, table_name, "
                            + warehouse.dialect().rowPlace(),
                    row -> assertions
                            .computeIfAbsent(
                                    new CountKey(row.number(1), String.valueOf(row.text(2))), key -> new ArrayList<>())
                            .add(new JudgedAssertion(
                                    String.valueOf(row.text(3)),
                                    String.valueOf(row.text(4)),
                                    String.valueOf(row.text(5)),
                                    row.number(6),
                                    String.valueOf(row.text(7)),
                                    String.valueOf(row.text(8)).startsWith("t"))));
        }
        return assertions;
    }

    private Map<CountKey, List<UnmatchedValue>> unmatched(String condition) {
        Map<CountKey, List<UnmatchedValue>> unmatched = new LinkedHashMap<>();
        warehouse.query(
                "select load, table_name, role, found, natural_key, staged_rows from " + warehouse.book("unmatched")
                        + condition + " order by load, staged_rows desc, role, natural_key",
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

    private Map<CountKey, Map<String, Map<String, Long>>> counts(String condition) {
        Map<CountKey, Map<String, Map<String, Long>>> counts = new LinkedHashMap<>();
        warehouse.query(
                "select load, table_name, role, name, staged_rows from " + warehouse.book("counts") + condition
                        + " order by " + warehouse.dialect().rowPlace(),
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

    /** Which loads resolved the rows of a table that a load set aside, by that load and the table. */
    public Map<List<Object>, List<Long>> resolved() {
        Map<List<Object>, List<Long>> resolved = new LinkedHashMap<>();
        if (Books.has(warehouse, BookTable.RESOLVED)) {
            warehouse.query(
                    "select load, table_name, resolved_by from " + warehouse.book(BookTable.RESOLVED.tableName())
                            + " order by 1, 2, 3",
                    row -> resolved.computeIfAbsent(
                                    List.of(row.number(1), String.valueOf(row.text(2))), key -> new ArrayList<>())
                            .add(row.number(3)));
        }
        return resolved;
    }

    /** The rows that wait for somebody, the oldest first. */
    public List<WaitingEntry> waiting() {
        return hasBooks() ? waiting("") : List.of();
    }

    /**
     * The rows of a table that wait.
     *
     * @param since the load date of the load since which the oldest waits
     */
    public record WaitingRows(String table, long rows, String since) {}

    /** How many rows wait, and since when, for each table that has any. */
    public List<WaitingRows> waitingByTable() {
        return hasBooks()
                ? warehouse.query(
                        "select w.table_name, count(*), min(l.load_date) from " + warehouse.book("waiting_rows")
                                + " as w left join " + warehouse.book("loads")
                                + " as l on l.load = w.load group by w.table_name order by w.table_name",
                        row -> new WaitingRows(String.valueOf(row.text(1)), row.number(2), String.valueOf(row.text(3))))
                : List.of();
    }

    List<WaitingEntry> waiting(String condition, Object... values) {
        Optional<LocalDate> newest = warehouse
                .firstText("select max(load_date) from " + warehouse.book("loads"))
                .map(Journal::day);
        return warehouse.query(
                "select w.table_name, l.load_date, w.input, w.staged_row, w.load, w.reason, w.column_name, w.bad_value,"
                        + " w.file, w.line, w.row_text, w.staged_values from " + warehouse.book("waiting_rows")
                        + " as w left join " + warehouse.book("loads") + " as l on l.load = w.load " + condition
                        + " order by w.staged_row, w.table_name, w.input",
                row -> new WaitingEntry(
                        String.valueOf(row.text(1)),
                        String.valueOf(row.text(2)),
                        ChronoUnit.DAYS.between(day(String.valueOf(row.text(2))), newest.orElseThrow()),
                        new WaitingRow(
                                String.valueOf(row.text(3)),
                                row.number(4),
                                row.number(5),
                                String.valueOf(row.text(6)),
                                row.text(7),
                                row.text(8),
                                row.text(9),
                                row.number(10),
                                row.text(11),
                                WaitingEntry.read(row.text(12)))),
                values);
    }

    /** The day of a load date, which may have a time. */
    private static LocalDate day(String date) {
        return LocalDate.parse(date.substring(0, 10));
    }

    /** The form in which a file came of which rows were kept, by any load of a table; the newest one. */
    Optional<RowForm> form(String table, String file) {
        return warehouse
                .query(
                        "select kind, encoding, header from " + warehouse.book("forms")
                                + " where table_name = ? and file = ? order by load desc limit 1",
                        Journal::form,
                        table,
                        file)
                .stream()
                .findFirst();
    }

    private static RowForm form(Row found) {
        return new RowForm(
                RowForm.Kind.valueOf(String.valueOf(found.text(1))),
                String.valueOf(found.text(2)),
                String.valueOf(found.text(3)));
    }

    /** The form in which the rows of a file came that a load set aside. */
    public Optional<RowForm> form(SetAsideRow row) {
        return warehouse
                .query(
                        "select kind, encoding, header from " + warehouse.book("forms")
                                + " where load = ? and table_name = ? and file = ?",
                        Journal::form,
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
