package dev.zeitkammer.books;

import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/**
 * What the books know before a table is loaded, of all tables, read in one query: marks, decided types, columns that were added
 * later, the newest load dates, and for whom rows wait.
 */
public final class Known {

    private static final String MARK = "mark";
    private static final String TYPE = "type";
    private static final String ADDED = "added";
    private static final String DATE = "date";
    private static final String WAITING = "waiting";
    private static final String IMAGES = "images";
    private static final String READ = "read";
    private static final String SEALED = "sealed";

    /** Values by what they are, the table or input that they belong to, and the name that they have there. */
    private final Map<String, Map<String, Map<String, String>>> values = new LinkedHashMap<>();

    private Known() {}

    /** Reads it; nothing where nothing was ever loaded. */
    public static Known of(Warehouse warehouse) {
        Known known = new Known();
        if (Books.stand(warehouse)) {
            warehouse.query(
                    sql(warehouse),
                    row -> known.values
                            .computeIfAbsent(String.valueOf(row.text(1)), kind -> new LinkedHashMap<>())
                            .computeIfAbsent(String.valueOf(row.text(2)), owner -> new LinkedHashMap<>())
                            .put(String.valueOf(row.text(3)), String.valueOf(row.text(4))),
                    LoadStatus.DONE.word());
        }
        return known;
    }

    private static String sql(Warehouse warehouse) {
        return Sql.of("""
                select '${mark}', table_name, input, mark from ${marks}
                union all
                select '${type}', input, column_name, type from ${staged_types}
                union all
                select '${added}', table_name, column_name, ${least_load} from ${added_columns} group by table_name, column_name
                union all
                select '${waiting}', table_name, input, ${number} from ${waiting_rows} group by table_name, input
                union all
                select '${date}', t.table_name, '', max(l.load_date)
                from ${loads} as l join ${table_loads} as t on t.load = l.load
                where t.status = ?
                group by t.table_name${images_since}${sealed}${read}""")
                .with("least_load", warehouse.dialect().asText("min(load)"))
                .with("number", warehouse.dialect().asText("count(*)"))
                .with(
                        "images_since",
                        Books.has(warehouse, BookTable.IMAGES)
                                ? "\nunion all\nselect '" + IMAGES + "', table_name, '', "
                                        + warehouse.dialect().asText("since") + " from "
                                        + book(warehouse, BookTable.IMAGES)
                                : "")
                .with(
                        "sealed",
                        Books.has(warehouse, BookTable.SEALS)
                                ? "\nunion all\nselect '" + SEALED + "', table_name, '', max(method) from "
                                        + book(warehouse, BookTable.SEALS) + " group by table_name"
                                : "")
                .with("read", Books.has(warehouse, BookTable.READ_DELIVERIES) ? read(warehouse) : "")
                .with("mark", MARK)
                .with("marks", book(warehouse, BookTable.MARKS))
                .with("type", TYPE)
                .with("staged_types", book(warehouse, BookTable.STAGED_TYPES))
                .with("added", ADDED)
                .with("added_columns", book(warehouse, BookTable.ADDED_COLUMNS))
                .with("waiting", WAITING)
                .with("waiting_rows", book(warehouse, BookTable.WAITING_ROWS))
                .with("date", DATE)
                .with("loads", book(warehouse, BookTable.LOADS))
                .with("table_loads", book(warehouse, BookTable.TABLE_LOADS))
                .text();
    }

    /** What the newest load that stands read of each table. */
    private static String read(Warehouse warehouse) {
        return Sql.of("""

                union all
                select '${kind}', r.table_name, ${load}, r.fingerprint
                from ${read} as r
                join (
                  select table_name, max(load) as newest
                  from ${table_loads}
                  where status = ${done}
                  group by table_name
                ) as n on n.table_name = r.table_name and n.newest = r.load""")
                .with("kind", READ)
                .with("load", warehouse.dialect().asText("r.load"))
                .with("read", book(warehouse, BookTable.READ_DELIVERIES))
                .with("table_loads", book(warehouse, BookTable.TABLE_LOADS))
                .with("done", warehouse.dialect().text(LoadStatus.DONE.word()))
                .text();
    }

    private static String book(Warehouse warehouse, BookTable table) {
        return warehouse.book(table.tableName());
    }

    private Map<String, String> of(String kind, String owner) {
        return values.getOrDefault(kind, Map.of()).getOrDefault(owner, Map.of());
    }

    /** The greatest values of running columns that a table has loaded, by input. */
    public Map<String, String> marks(String table) {
        return of(MARK, table);
    }

    /** The types that earlier deliveries of an input decided, by column. */
    public Map<String, SqlType> decidedTypes(String input) {
        Map<String, SqlType> types = new LinkedHashMap<>();
        of(TYPE, input).forEach((column, type) -> SqlType.parse(type).ifPresent(known -> types.put(column, known)));
        return types;
    }

    /** Columns that were added to a table in which rows stood, each with the load before which they were not there. */
    public Map<String, Long> addedColumns(String table) {
        Map<String, Long> added = new LinkedHashMap<>();
        of(ADDED, table).forEach((column, load) -> added.put(column, Long.valueOf(load)));
        return added;
    }

    /** The newest load date with which a table was loaded. */
    public Optional<String> newestDate(String table) {
        return Optional.ofNullable(of(DATE, table).get(""));
    }

    /**
     * A load that read a delivery.
     *
     * @param fingerprint that of what it read
     */
    public record LastRead(long load, String fingerprint) {}

    /** The newest load of a table that stands, where it noted what it read. */
    public Optional<LastRead> lastRead(String table) {
        return of(READ, table).entrySet().stream()
                .map(read -> new LastRead(Long.parseLong(read.getKey()), read.getValue()))
                .findFirst();
    }

    /** The load since which the rows of a table are kept as they were before each load. */
    public Optional<Long> imagesSince(String table) {
        return Optional.ofNullable(of(IMAGES, table).get("")).map(Long::valueOf);
    }

    /** By what a table's rows were hashed for its seal. */
    public Optional<String> sealedBy(String table) {
        return Optional.ofNullable(of(SEALED, table).get(""));
    }

    /** Whether rows of an input wait for somebody. */
    public boolean anyWaiting(String table, String input) {
        return of(WAITING, table).containsKey(input);
    }
}
