package dev.zeitkammer.books;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Writes the books. What concerns one table's load is written in the transaction of that load, so that books and tables never
 * disagree.
 */
public final class Books {

    private static final Set<BookTable> LATER = Set.of(
            BookTable.IMAGES,
            BookTable.BEFORE_BOOKS,
            BookTable.UNDONE,
            BookTable.READ_DELIVERIES,
            BookTable.WAITED,
            BookTable.ASSERTIONS,
            BookTable.MISPLACED,
            BookTable.RESOLVED);

    /** What the book of assertions was called before. */
    private static final String BEFORE_ASSERTIONS = "expectations";

    private final Warehouse warehouse;
    private final BookRows rows;

    public Books(Warehouse warehouse) {
        this.warehouse = warehouse;
        this.rows = new BookRows(warehouse);
    }

    /** Creates the books where they are missing. */
    public void create() {
        Set<String> standing = warehouse.books();
        List<BookTable> missing = Arrays.stream(BookTable.values())
                .filter(table -> !standing.contains(table.tableName()))
                .toList();
        if (!missing.isEmpty()) {
            create(missing, standing);
        }
        if (standing.contains(BEFORE_ASSERTIONS)) {
            renameAssertions();
        }
    }

    private void create(List<BookTable> missing, Set<String> standing) {
        warehouse.createBooks();
        if (standing.contains(BookTable.WAITING.tableName())) {
            addNotedBy();
        }
        Map<String, List<Column>> columns = new LinkedHashMap<>();
        missing.forEach(table -> columns.put(table.tableName(), table.typed()));
        warehouse.createBooks(columns);
    }

    /** Books of the time before {@link BookTable#WAITED} do not tell which load noted that a fact waits. */
    private void addNotedBy() {
        String waiting = warehouse.book(BookTable.WAITING.tableName());
        Column noted = BookTable.WAITING.typed().stream()
                .reduce((first, second) -> second)
                .orElseThrow();
        boolean stands = warehouse.describe("select * from " + waiting).stream()
                .anyMatch(column -> column.name().equals(noted.name()));
        if (!stands) {
            warehouse.execute(warehouse.dialect().addColumn(waiting, noted));
        }
    }

    /** The rows of the book of assertions that has its former name; where this was cut off, it is done again. */
    private void renameAssertions() {
        String before = warehouse.book(BEFORE_ASSERTIONS);
        warehouse.execute(Sql.of("""
                insert into ${assertions} (load, table_name, name, asserted, found, broken, otherwise, holds)
                select b.load, b.table_name, b.name, b.expected, b.found, b.broken, b.otherwise, b.holds
                from ${before} as b
                where not exists (select 1 from ${assertions} as a where a.load = b.load)""")
                .with("assertions", warehouse.book(BookTable.ASSERTIONS.tableName()))
                .with("before", before)
                .text());
        warehouse.execute("drop table " + before);
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

    /** Begins a load: gives it a number and enters it as running. Those that began and never ended were cut off, and have failed. */
    public long begin(String date, LocalDateTime started) {
        List<Long> before = warehouse.numbers(List.of(
                "(select coalesce(max(load), 0) from " + loads() + ")",
                "(select count(*) from " + loads() + " where status = "
                        + warehouse.dialect().text(LoadStatus.RUNNING.word()) + ")"));
        if (before.get(1) > 0) {
            closeCutOff();
        }
        long load = 1 + before.get(0);
        warehouse.update(
                "insert into " + warehouse.book("loads")
                        + " (load, load_date, status, started_at, ended_at) values (?, ?, ?, ?, null)",
                load,
                date,
                LoadStatus.RUNNING.word(),
                started);
        return load;
    }

    private String loads() {
        return warehouse.book(BookTable.LOADS.tableName());
    }

    private void closeCutOff() {
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
        rows.insert(BookTable.COUNTS, counts);
        rows.insert(
                BookTable.UNMATCHED,
                entry.unmatched().stream()
                        .map(value -> List.<@Nullable Object>of(
                                load, entry.table(), value.role(), value.found(), value.value(), value.rows()))
                        .toList());
        rows.insert(
                BookTable.ASSERTIONS,
                entry.assertions().stream()
                        .map(judged -> List.<@Nullable Object>of(
                                load,
                                entry.table(),
                                judged.name(),
                                judged.asserted(),
                                judged.found(),
                                judged.broken(),
                                judged.otherwise(),
                                judged.holds()))
                        .toList());
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
        rows.insert(BookTable.MARKS, List.of(List.of(table, input, column, mark)));
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

    /** Enters that the rows of a table which a load set aside were mended, and loaded by another load. */
    public void noteResolved(long load, String table, long by) {
        rows.insert(BookTable.RESOLVED, List.of(List.of(load, table, by)));
    }

    /** The table of facts that others left at another version than the one valid at their date. */
    public String misplaced() {
        return warehouse.book(BookTable.MISPLACED.tableName());
    }

    /** The table of the highest keys ever given. */
    public String highestKeys() {
        return warehouse.book(BookTable.HIGHEST_KEYS.tableName());
    }

    /** The table of members that facts made. */
    public String placeholders() {
        return warehouse.book(BookTable.PLACEHOLDERS.tableName());
    }

    /** Enters how an extra step of a load went. */
    public void enterExtra(long load, ExtraRun run) {
        rows.insert(
                BookTable.EXTRA_STEPS,
                List.of(List.of(load, run.name(), run.where(), run.status(), run.seconds(), run.output())));
    }

    /** The newest load that changed rows of a table and stands, be it by facts that made members there; 0 where there is none. */
    public long lastChange(String table) {
        long made = warehouse.number("select " + lastMadeSql(table));
        long changed = warehouse.number(
                "select coalesce(max(t.load), 0) from " + warehouse.book("table_loads")
                        + " as t where t.table_name = ? and t.status = ? and (t.inserted > 0 or t.updated > 0 or exists"
                        + " (select 1 from " + warehouse.book("counts")
                        + " as c where c.load = t.load and c.table_name = t.table_name and c.name = 'removed' and c.staged_rows > 0))",
                table,
                LoadStatus.DONE.word());
        return Math.max(made, changed);
    }

    /** When a load began, as a text in UTC; empty where there is none of that number. */
    public String begun(long load) {
        return warehouse
                .query(
                        "select " + warehouse.dialect().asText("started_at") + " from " + warehouse.book("loads")
                                + " where load = ?",
                        row -> String.valueOf(row.text(1)),
                        load)
                .stream()
                .findFirst()
                .orElse("");
    }

    /**
     * SQL for the numbers of the newest loads that changed what the load of a table depends on: rows that facts made in it, and for
     * each dimension that it looks up, its rows, which are never removed, and those that facts made there.
     */
    public List<String> lastChangesSql(String table, List<String> lookedUp) {
        List<String> numbers = new ArrayList<>(List.of(lastMadeSql(table)));
        for (String dimension : lookedUp) {
            numbers.add("(select coalesce(max(load), 0) from " + warehouse.book("table_loads") + " where table_name = "
                    + warehouse.dialect().text(dimension) + " and status = "
                    + warehouse.dialect().text(LoadStatus.DONE.word()) + " and (inserted > 0 or updated > 0))");
            numbers.add(lastMadeSql(dimension));
        }
        return numbers;
    }

    private String lastMadeSql(String table) {
        return "(select coalesce(max(load), 0) from " + placeholders() + " where table_name = "
                + warehouse.dialect().text(table) + ")";
    }

    /**
     * Notes from what a load read a table.
     *
     * @param state further numbers of its fingerprint, in SQL; they stand as texts between blanks
     */
    public void noteRead(long load, String table, String beginning, List<String> state, String end) {
        String numbers = state.stream().map(warehouse.dialect()::asText).collect(Collectors.joining(" || ',' || "));
        warehouse.update("insert into " + warehouse.book(BookTable.READ_DELIVERIES.tableName())
                + " (load, table_name, fingerprint) select " + load + ", "
                + warehouse.dialect().text(table) + ", "
                + warehouse.dialect().text(beginning + " ") + " || " + numbers + " || "
                + warehouse.dialect().text(" " + end));
    }

    /** What was found for an assertion in the last load of a table that stands. */
    public Optional<String> lastFound(String table, String assertion) {
        return warehouse
                .query(
                        "select e.found from " + warehouse.book("assertions") + " as e join "
                                + warehouse.book("table_loads")
                                + " as t on t.load = e.load and t.table_name = e.table_name"
                                + " where e.table_name = ? and e.name = ? and t.status = ? order by e.load desc limit 1",
                        row -> String.valueOf(row.text(1)),
                        table,
                        assertion,
                        LoadStatus.DONE.word())
                .stream()
                .findFirst();
    }

    /** The highest surrogate key that a table ever gave; 0 before the first. */
    public String highestKeySql(String table) {
        return "coalesce((select max(highest) from " + warehouse.book("highest_keys") + " where table_name = "
                + warehouse.dialect().text(table) + "), 0)";
    }

    /** Notes the highest key that a table has given. */
    public void noteHighestKey(String table, long highest) {
        rows.insert(BookTable.HIGHEST_KEYS, List.of(List.of(table, highest)));
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
        rows.insert(
                BookTable.STAGED_TYPES,
                types.entrySet().stream()
                        .filter(decided -> !known.containsKey(decided.getKey()))
                        .map(decided -> List.<@Nullable Object>of(
                                input, decided.getKey(), decided.getValue().toString()))
                        .toList());
    }

    /** Notes columns that a load adds to a table. */
    public void noteAdded(String table, List<String> columns, long load) {
        rows.insert(
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
        Optional<Dimension> dimension =
                Optional.of(definition).filter(Dimension.class::isInstance).map(Dimension.class::cast);
        String members = dimension
                .map(each -> " where " + each.isMember(warehouse.dialect().quote(each.keyColumn())))
                .orElse("");
        long standing = warehouse.number("select count(*) from " + warehouse.table(table) + members);
        warehouse.update(
                "insert into " + warehouse.book("table_loads")
                        + " (load, table_name, kind, status, seconds, inserted, updated, error) values (0, ?, ?, ?, 0.0, ?, 0, null)",
                table,
                dimension.isEmpty() ? "fact" : "dimension",
                LoadStatus.DONE.word(),
                standing);
        dimension.ifPresent(each -> noteHighestKey(
                table,
                warehouse.number("select coalesce(max(" + warehouse.dialect().quote(each.keyColumn()) + "), 0) from "
                        + warehouse.table(table))));
    }
}
