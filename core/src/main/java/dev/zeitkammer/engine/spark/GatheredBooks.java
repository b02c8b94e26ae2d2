package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.WarehouseException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/**
 * The books in one table, with the columns of all of them and the name of the book that a row is of: what a transaction writes
 * into any of them is one table to put forward, and its rows of plain values one append. A book is read as a query of its rows, and
 * statements that write to that query are turned into such of the table. Warehouses whose books are tables of their own keep them.
 */
final class GatheredBooks {

    /** The table. */
    static final String TABLE = "entries";

    /** The property of the table in which the columns of each book are kept. */
    private static final String COLUMNS = "zeitkammer.books";

    private static final String BOOK = "zk_book";
    /** In what order rows were entered that came together. */
    private static final String NTH = "zk_nth";

    private static final String ROWS = "zk_q";
    private static final String VALUES = "values ";
    private static final String WHERE = "where ";

    /** An append writes rows of several books, each to a file of its own; of what each commit notes, little files are put together. */
    private static final String MADE = "\nusing iceberg partitioned by (`" + BOOK + "`) tblproperties ("
            + SparkDialect.PROPERTIES
            + ", 'write.distribution-mode' = 'none', 'write.spark.fanout.enabled' = 'true',"
            + " 'commit.manifest.min-count-to-merge' = '20', '" + COLUMNS + "' = ";

    private static final Pattern FORM = Pattern.compile("(\\w+\\(\\w+ [^;]*\\);?)+");

    private final SparkWarehouse warehouse;
    private final Dialect dialect;

    /** Rows of plain values that wait for the next statement that reads them, each as a query of the whole table. */
    private final List<String> waiting = new ArrayList<>();

    private @Nullable Map<String, List<Column>> known;

    GatheredBooks(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
    }

    private String table() {
        return warehouse.bookTable(TABLE);
    }

    /** The columns of each book; none where the warehouse has no such table. */
    Map<String, List<Column>> books() {
        if (known == null && warehouse.standsAsBook(TABLE)) {
            known = read();
        }
        return known == null ? Map.of() : known;
    }

    private Map<String, List<Column>> read() {
        String columns = warehouse
                .query("show tblproperties " + table() + " ('" + COLUMNS + "')", row -> String.valueOf(row.text(2)))
                .get(0);
        if (!FORM.matcher(columns).matches()) {
            throw new WarehouseException(
                    "The table " + table() + " does not tell which books it has: its property " + COLUMNS + " is "
                            + columns + "; the program did not make it, or it was changed by hand",
                    null);
        }
        return parsed(columns);
    }

    /** Such as {@code marks(input varchar|mark varchar);undone(load bigint)}. */
    private static String written(Map<String, List<Column>> books) {
        return books.entrySet().stream()
                .map(book -> book.getKey() + "("
                        + book.getValue().stream()
                                .map(column -> column.name() + " " + column.type())
                                .collect(Collectors.joining("|"))
                        + ")")
                .collect(Collectors.joining(";"));
    }

    private static Map<String, List<Column>> parsed(String text) {
        Map<String, List<Column>> books = new LinkedHashMap<>();
        for (String book : text.split(";")) {
            int open = book.indexOf('(');
            books.put(
                    book.substring(0, open),
                    Arrays.stream(book.substring(open + 1, book.length() - 1).split("\\|"))
                            .map(column -> column.split(" ", 2))
                            .map(column -> new Column(
                                    column[0], SqlType.parse(column[1]).orElseThrow()))
                            .toList());
        }
        return books;
    }

    /** The columns of all books, each once. */
    private static List<Column> all(Map<String, List<Column>> books) {
        return books.values().stream().flatMap(List::stream).distinct().toList();
    }

    /** Makes the table, or adds to it what some more books need. */
    void create(Map<String, List<Column>> missing) {
        Map<String, List<Column>> before = books();
        Map<String, List<Column>> books = new LinkedHashMap<>(before);
        books.putAll(missing);
        if (before.isEmpty()) {
            List<Column> columns =
                    new ArrayList<>(List.of(new Column(BOOK, SqlType.VARCHAR), new Column(NTH, SqlType.BIGINT)));
            columns.addAll(all(books));
            warehouse.execute("create table if not exists " + table() + " ("
                    + dialect.list(columns, column -> dialect.quote(column.name()) + " " + dialect.type(column.type()))
                    + ")" + MADE + dialect.text(written(books)) + ")");
        } else {
            all(books).stream()
                    .filter(column -> !all(before).contains(column))
                    .forEach(column -> warehouse.execute(dialect.addColumn(table(), column)));
            warehouse.execute("alter table " + table() + " set tblproperties ('" + COLUMNS + "' = "
                    + dialect.text(written(books)) + ")");
        }
        known = books;
    }

    /** A query of the rows of a book, as a relation; empty where it is no such book. */
    Optional<String> relation(String book) {
        return Optional.ofNullable(books().get(book))
                .map(columns -> "(select "
                        + dialect.columns(columns.stream().map(Column::name).toList()) + ", "
                        + dialect.quote(NTH) + " as " + dialect.rowPlace() + " from " + table() + " where " + isOf(book)
                        + ")");
    }

    private String isOf(String book) {
        return dialect.quote(BOOK) + " = " + dialect.text(book);
    }

    /** Whether a relation is one of them. */
    boolean isRelation(String relation) {
        return relation.startsWith("(select ") && relation.contains(" from " + table() + " where ");
    }

    /** Whether a statement reads or writes them. */
    boolean areIn(String sql) {
        return sql.contains(table());
    }

    /**
     * A statement as the table takes it.
     *
     * @param mayWait whether rows of plain values need not be written yet
     * @return empty where nothing is to be executed now
     */
    Optional<String> adapted(String sql, boolean mayWait) {
        if (!areIn(sql)) {
            return Optional.of(sql);
        }
        for (String book : books().keySet()) {
            String relation = relation(book).orElseThrow();
            if (sql.startsWith("insert into " + relation)) {
                return inserted(
                        book,
                        sql.substring("insert into ".length() + relation.length())
                                .strip(),
                        mayWait);
            }
            if (sql.startsWith("delete from " + relation)) {
                String condition = sql.substring("delete from ".length() + relation.length())
                        .strip();
                return Optional.of("delete from " + table() + "\nwhere " + isOf(book) + " and ("
                        + condition.substring(WHERE.length()) + ")");
            }
            if (sql.startsWith("update " + relation)) {
                String set = sql.substring("update ".length() + relation.length());
                int where = set.indexOf(" " + WHERE);
                return Optional.of("update " + table() + set.substring(0, where) + "\nwhere " + isOf(book) + " and ("
                        + set.substring(where + 1 + WHERE.length()) + ")");
            }
        }
        return Optional.of(sql);
    }

    /** @param what columns in parentheses, or none: all of the book; and values, or a query */
    private Optional<String> inserted(String book, String what, boolean mayWait) {
        List<Column> columns = books().get(book);
        List<String> given = columns.stream().map(Column::name).toList();
        String rows = what;
        if (what.startsWith("(")) {
            int end = what.indexOf(')');
            given = Arrays.stream(what.substring(1, end).split(","))
                    .map(String::strip)
                    .toList();
            rows = what.substring(end + 1).strip();
        }
        waiting.add(whole(book, given, rows));
        return rows.startsWith(VALUES) && mayWait ? Optional.empty() : flushed();
    }

    /** Rows of a book as rows of the whole table. */
    private String whole(String book, List<String> given, String rows) {
        List<String> names = given.stream().map(name -> name.replace("`", "")).toList();
        String values = dialect.list(all(books()), column -> {
            int place = names.indexOf(column.name());
            return dialect.cast(place < 0 ? "null" : ROWS + ".c" + place, column.type());
        });
        String aliases =
                IntStream.range(0, names.size()).mapToObj(place -> "c" + place).collect(Collectors.joining(", "));
        return "select " + dialect.text(book) + ", monotonically_increasing_id(), " + values + "\nfrom (" + rows
                + ") as " + ROWS + "(" + aliases + ")";
    }

    /** The rows that wait, as one statement. */
    private String append() {
        List<String> names = new ArrayList<>(List.of(BOOK, NTH));
        all(books()).forEach(column -> names.add(column.name()));
        String sql = "insert into " + table() + " (" + dialect.columns(names) + ")\n"
                + String.join("\nunion all\n", waiting);
        waiting.clear();
        return sql;
    }

    /** The statement that writes what waits; empty where nothing does. */
    Optional<String> flushed() {
        return waiting.isEmpty() ? Optional.empty() : Optional.of(append());
    }

    /** What waits is of a transaction that is taken back. */
    void discard() {
        waiting.clear();
    }
}
