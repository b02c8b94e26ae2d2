package dev.zeitkammer.books;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.RowForm;
import dev.zeitkammer.staging.WaitingRow;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/**
 * Writes the books. What concerns one table's load is written in the transaction of that load, so that books and tables never
 * disagree.
 */
public final class Books {

    private static final String CARRIED = "zk_carried";
    private static final Set<BookTable> LATER = Set.of(BookTable.IMAGES, BookTable.BEFORE_BOOKS, BookTable.UNDONE);

    /** The columns of a kept row of the books before its values. */
    private static final int BEFORE_KEYS = 4;

    private final Warehouse warehouse;

    public Books(Warehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** Creates the books where they are missing. */
    public void create() {
        Set<String> standing = warehouse.books();
        List<BookTable> missing = Arrays.stream(BookTable.values())
                .filter(table -> !standing.contains(table.tableName()))
                .toList();
        if (missing.isEmpty()) {
            return;
        }
        warehouse.createBooks();
        for (BookTable table : missing) {
            warehouse.execute(
                    warehouse.dialect().createTableIfMissing(warehouse.book(table.tableName()), table.typed()));
        }
    }

    /** Whether a warehouse has books; those that a later version of the program has more are made by the next load. */
    static boolean stand(Warehouse warehouse) {
        return warehouse
                .books()
                .containsAll(Arrays.stream(BookTable.values())
                        .filter(table -> !LATER.contains(table))
                        .map(BookTable::tableName)
                        .toList());
    }

    /** Whether one of the later tables stands. */
    static boolean has(Warehouse warehouse, BookTable table) {
        return warehouse.books().contains(table.tableName());
    }

    /** Keeps the rows that a book has of a table, before a load changes them. */
    public void keepBefore(long load, String table, String book) {
        BookTable kept = BookTable.valueOf(book.toUpperCase(Locale.ROOT));
        List<Column> columns = kept.typed();
        int most = BookTable.BEFORE_BOOKS.typed().size() - BEFORE_KEYS;
        String key = load + ", " + warehouse.dialect().text(table) + ", "
                + warehouse.dialect().text(book);
        warehouse.execute("insert into " + warehouse.book(BookTable.BEFORE_BOOKS.tableName()) + " select " + key
                + ", false" + ", null".repeat(most) + "\nunion all\nselect " + key + ", true, "
                + warehouse
                        .dialect()
                        .list(columns, column -> warehouse.dialect().asText(column.name()))
                + ", null".repeat(most - columns.size()) + " from " + warehouse.book(book) + " where table_name = "
                + warehouse.dialect().text(table));
    }

    /** Puts back what the books had of a table before a load changed it, and forgets the members that its facts made. */
    public void restoreBefore(long load, String table) {
        String before = warehouse.book(BookTable.BEFORE_BOOKS.tableName());
        List<String> kept = warehouse.query(
                "select book from " + before + " where load = ? and table_name = ? and not is_row",
                row -> String.valueOf(row.text(1)),
                load,
                table);
        for (String book : kept) {
            List<Column> columns =
                    BookTable.valueOf(book.toUpperCase(Locale.ROOT)).typed();
            warehouse.update("delete from " + warehouse.book(book) + " where table_name = ?", table);
            warehouse.update(
                    "insert into " + warehouse.book(book) + " ("
                            + warehouse.dialect().list(columns, Column::name)
                            + ") select "
                            + IntStream.rangeClosed(1, columns.size())
                                    .mapToObj(number -> warehouse
                                            .dialect()
                                            .cast(
                                                    "value_" + number,
                                                    columns.get(number - 1).type()))
                                    .collect(Collectors.joining(", "))
                            + " from " + before + " where load = ? and table_name = ? and book = ? and is_row",
                    load,
                    table,
                    book);
        }
        warehouse.update("delete from " + before + " where load = ? and table_name = ?", load, table);
        warehouse.update("delete from " + placeholders() + " where load = ? and table_name = ?", load, table);
    }

    /** Notes since which load the rows of a table are kept as they were. */
    public void noteImages(String table, long since) {
        insert(BookTable.IMAGES, List.of(List.of(table, since)));
    }

    /** Notes that the rows of a table are not kept as they were. */
    public void forgetImages(String table) {
        warehouse.update(
                "delete from " + warehouse.book(BookTable.IMAGES.tableName()) + " where table_name = ?", table);
    }

    /** Enters that a load was taken back. */
    public void noteUndone(long load, LocalDateTime at) {
        insert(BookTable.UNDONE, List.of(List.of(load, at)));
        for (String book : List.of(BookTable.LOADS.tableName(), BookTable.TABLE_LOADS.tableName())) {
            warehouse.update(
                    "update " + warehouse.book(book) + " set status = ? where load = ? and status = ?",
                    LoadStatus.UNDONE.word(),
                    load,
                    LoadStatus.DONE.word());
        }
    }

    /** Enters that some tables of a load were taken back; the load itself, where nothing of it stands any more. */
    public void noteUndone(long load, List<String> tables, LocalDateTime at) {
        for (String table : tables) {
            warehouse.update(
                    "update " + warehouse.book("table_loads")
                            + " set status = ? where load = ? and table_name = ? and status = ?",
                    LoadStatus.UNDONE.word(),
                    load,
                    table,
                    LoadStatus.DONE.word());
        }
        long standing = warehouse.number(
                "select count(*) from " + warehouse.book("table_loads") + " where load = ? and status = ?",
                load,
                LoadStatus.DONE.word());
        if (standing == 0) {
            noteUndone(load, at);
        }
    }

    /** Begins a load: gives it a number and enters it as running. */
    public long begin(String date, LocalDateTime started) {
        long load = nextLoad();
        warehouse.update(
                "insert into " + warehouse.book("loads")
                        + " (load, load_date, status, started_at, ended_at) values (?, ?, ?, ?, null)",
                load,
                date,
                LoadStatus.RUNNING.word(),
                started);
        return load;
    }

    /** Enters loads that began and never ended as failed: they were cut off. */
    public void closeCutOff() {
        warehouse.update(
                "update " + warehouse.book("loads") + " set status = ? where status = ?",
                LoadStatus.FAILED.word(),
                LoadStatus.RUNNING.word());
    }

    /** The number that the next load will have. */
    public long nextLoad() {
        return 1 + warehouse.number("select coalesce(max(load), 0) from " + warehouse.book("loads"));
    }

    public void end(long load, LoadStatus status, LocalDateTime ended) {
        warehouse.update(
                "update " + warehouse.book("loads") + " set status = ?, ended_at = ? where load = ?",
                status.word(),
                ended,
                load);
    }

    /** Enters what a load did to a table. */
    public void enter(long load, TableEntry entry) {
        warehouse.update(
                "insert into " + warehouse.book("table_loads")
                        + " (load, table_name, kind, status, seconds, inserted, updated, error) values (?, ?, ?, ?, ?, ?, ?, ?)",
                load,
                entry.table(),
                entry.kind(),
                entry.status().word(),
                entry.seconds(),
                entry.inserted(),
                entry.updated(),
                entry.error().orElse(null));
        List<List<@Nullable Object>> counts = new ArrayList<>();
        entry.counts().forEach((name, rows) -> counts.add(List.of(load, entry.table(), "", name, rows)));
        entry.lookups()
                .forEach((role, found) ->
                        found.forEach((name, rows) -> counts.add(List.of(load, entry.table(), role, name, rows))));
        insert(BookTable.COUNTS, counts);
        insert(
                BookTable.UNMATCHED,
                entry.unmatched().stream()
                        .map(value -> List.<@Nullable Object>of(
                                load, entry.table(), value.role(), value.found(), value.value(), value.rows()))
                        .toList());
        insert(
                BookTable.EXPECTATIONS,
                entry.expectations().stream()
                        .map(judged -> List.<@Nullable Object>of(
                                load,
                                entry.table(),
                                judged.name(),
                                judged.expected(),
                                judged.found(),
                                judged.broken(),
                                judged.otherwise(),
                                judged.holds()))
                        .toList());
    }

    /** Adds rows to a table of the books, in one statement. */
    private void insert(BookTable table, List<List<@Nullable Object>> rows) {
        if (rows.isEmpty()) {
            return;
        }
        String row = "(" + String.join(", ", Collections.nCopies(rows.get(0).size(), "?")) + ")";
        warehouse.update(
                "insert into " + warehouse.book(table.tableName()) + " values "
                        + String.join(", ", Collections.nCopies(rows.size(), row)),
                rows.stream().flatMap(List::stream).toArray());
    }

    /** Keeps rows that were set aside. */
    public void keep(List<SetAsideRow> rows) {
        if (rows.isEmpty()) {
            return;
        }
        carry(BookTable.SET_ASIDE, () -> rows.stream().map(Books::values).iterator());
    }

    /** Adds many rows to a table of the books, in bulk; their values are in order of its columns. */
    private void carry(BookTable table, Iterable<List<@Nullable Object>> rows) {
        List<Column> columns = table.typed();
        warehouse.carry(CARRIED, columns, rows);
        String names = warehouse.dialect().list(columns, Column::name);
        warehouse.execute("insert into " + warehouse.book(table.tableName()) + " (" + names + ") select " + names
                + " from " + CARRIED);
        warehouse.dropScratch(CARRIED);
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
        carry(
                BookTable.WAITING_ROWS,
                () -> kept.stream().map(row -> WaitingEntry.values(table, row)).iterator());
    }

    /** Keeps the forms in which the files of rows came that a load sets aside. */
    public void keepForms(long load, String table, Map<String, RowForm> forms) {
        insert(
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

    /** The number of the last load that loaded a table; 0 before the first. */
    public String lastLoadSql(String table) {
        return "coalesce((select max(load) from " + warehouse.book("table_loads") + " where table_name = "
                + warehouse.dialect().text(table) + " and status = "
                + warehouse.dialect().text(LoadStatus.DONE.word())
                + "), 0)";
    }

    /** Notes the greatest value of a running column that a table has loaded. */
    public void noteMark(String table, String input, String column, String mark) {
        forgetMark(table, input);
        insert(BookTable.MARKS, List.of(List.of(table, input, column, mark)));
    }

    /** Forgets the mark of a table, so that its next load takes everything. */
    public void forgetMark(String table, String input) {
        warehouse.update(
                "delete from " + warehouse.book("marks") + " where table_name = ? and input = ?", table, input);
    }

    /** The table of facts that wait for a member. */
    public String waiting() {
        return warehouse.book(BookTable.WAITING.tableName());
    }

    /** The table of the highest keys ever given. */
    public String highestKeys() {
        return warehouse.book(BookTable.HIGHEST_KEYS.tableName());
    }

    /** The table of the loads since which images are kept. */
    public String images() {
        return warehouse.book(BookTable.IMAGES.tableName());
    }

    /** The table of members that facts made. */
    public String placeholders() {
        return warehouse.book(BookTable.PLACEHOLDERS.tableName());
    }

    /** The tables in which a load's facts made members. */
    public List<String> placeholdersOf(long load) {
        return warehouse.query(
                "select distinct table_name from " + placeholders() + " where load = ? and inserted > 0",
                row -> String.valueOf(row.text(1)),
                load);
    }

    /** Enters how an extra step of a load went. */
    public void enterExtra(long load, ExtraRun run) {
        insert(
                BookTable.EXTRA_STEPS,
                List.of(List.of(load, run.name(), run.where(), run.status(), run.seconds(), run.output())));
    }

    /** The newest load that changed rows of a table and stands; 0 where there is none. */
    public long lastChange(String table) {
        return warehouse.number(
                "select coalesce(max(t.load), 0) from " + warehouse.book("table_loads")
                        + " as t where t.table_name = ? and t.status = ? and (t.inserted > 0 or t.updated > 0 or exists"
                        + " (select 1 from " + warehouse.book("counts")
                        + " as c where c.load = t.load and c.table_name = t.table_name and c.name = 'removed' and c.staged_rows > 0))",
                table,
                LoadStatus.DONE.word());
    }

    /** What was found for an expectation in the last load of a table that stands. */
    public Optional<String> lastFound(String table, String expectation) {
        return warehouse
                .query(
                        "select e.found from " + warehouse.book("expectations") + " as e join "
                                + warehouse.book("table_loads")
                                + " as t on t.load = e.load and t.table_name = e.table_name"
                                + " where e.table_name = ? and e.name = ? and t.status = ? order by e.load desc limit 1",
                        row -> String.valueOf(row.text(1)),
                        table,
                        expectation,
                        LoadStatus.DONE.word())
                .stream()
                .findFirst();
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

    /** The highest surrogate key that a table ever gave; 0 before the first. */
    public String highestKeySql(String table) {
        return "coalesce((select max(highest) from " + warehouse.book("highest_keys") + " where table_name = "
                + warehouse.dialect().text(table) + "), 0)";
    }

    /** Notes the highest key that a table has given. */
    public void noteHighestKey(String table, long highest) {
        insert(BookTable.HIGHEST_KEYS, List.of(List.of(table, highest)));
    }

    /** The types that earlier deliveries of an input decided, by column. */
    private Map<String, SqlType> decidedTypes(String input) {
        Map<String, SqlType> types = new LinkedHashMap<>();
        warehouse.query(
                "select column_name, type from " + warehouse.book("staged_types") + " where input = ?",
                row -> SqlType.parse(String.valueOf(row.text(2)))
                        .map(type -> types.put(String.valueOf(row.text(1)), type)),
                input);
        return types;
    }

    /** Notes the types that a delivery decided. */
    public void noteTypes(String input, Map<String, SqlType> types) {
        if (types.isEmpty()) {
            return;
        }
        Map<String, SqlType> known = decidedTypes(input);
        insert(
                BookTable.STAGED_TYPES,
                types.entrySet().stream()
                        .filter(decided -> !known.containsKey(decided.getKey()))
                        .map(decided -> List.<@Nullable Object>of(
                                input, decided.getKey(), decided.getValue().toString()))
                        .toList());
    }

    /** Notes columns that a load adds to a table. */
    public void noteAdded(String table, List<String> columns, long load) {
        insert(
                BookTable.ADDED_COLUMNS,
                columns.stream()
                        .map(column -> List.<@Nullable Object>of(table, column, load))
                        .toList());
    }

    /**
     * Notes, once, what stood in a table before this program loaded it: its rows, which are of load 0, that there never was, and
     * the highest key.
     */
    public void noteAdopted(Definition definition) {
        String table = definition.table();
        boolean isNoted = !warehouse
                .query(
                        "select load from " + warehouse.book("table_loads") + " where table_name = ? and load = 0",
                        row -> row.number(1),
                        table)
                .isEmpty();
        if (isNoted) {
            return;
        }
        Dialect dialect = warehouse.dialect();
        String key = definition instanceof Dimension dimension ? dialect.quote(dimension.keyColumn()) : "";
        long rows = warehouse.number(
                "select count(*) from " + warehouse.table(table) + (key.isEmpty() ? "" : " where " + key + " >= 0"));
        warehouse.update(
                "insert into " + warehouse.book("table_loads")
                        + " (load, table_name, kind, status, seconds, inserted, updated, error) values (0, ?, ?, ?, 0.0, ?, 0, null)",
                table,
                key.isEmpty() ? "fact" : "dimension",
                LoadStatus.DONE.word(),
                rows);
        if (!key.isEmpty()) {
            noteHighestKey(
                    table, warehouse.number("select coalesce(max(" + key + "), 0) from " + warehouse.table(table)));
        }
    }
}
