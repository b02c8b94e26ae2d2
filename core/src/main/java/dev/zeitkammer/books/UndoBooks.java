package dev.zeitkammer.books;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** What the books hold so that loads can be taken back: their own rows as they were, since when rows are kept, and what was taken back. */
public final class UndoBooks {

    /** The columns of a kept row of the books before its values. */
    private static final int BEFORE_KEYS = 4;

    private final Warehouse warehouse;
    private final BookRows rows;

    public UndoBooks(Warehouse warehouse) {
        this.warehouse = warehouse;
        this.rows = new BookRows(warehouse);
    }

    /** Keeps the rows that a book has of a table, before a load changes them. */
    public void keepBefore(long load, String table, String book) {
        BookTable kept = BookTable.valueOf(book.toUpperCase(Locale.ROOT));
        List<Column> columns = kept.typed();
        int most = mostKept();
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

    /**
     * Keeps the facts that a load is about to take from those that wait. Those that it noted itself need not be kept.
     *
     * @param condition of the book of facts that wait
     */
    public void keepWaited(long load, String condition) {
        String columns = warehouse.dialect().list(BookTable.WAITING.typed(), Column::name);
        warehouse.execute("insert into " + waited() + " (load, " + columns + ")\nselect " + load + ", " + columns
                + " from " + waiting() + "\nwhere " + condition + "\n  and (noted_by is null or noted_by <> " + load
                + ")");
    }

    /** How many columns of a book's row can be kept. */
    private static int mostKept() {
        return BookTable.BEFORE_BOOKS.typed().size() - BEFORE_KEYS;
    }

    private String waiting() {
        return warehouse.book(BookTable.WAITING.tableName());
    }

    private String waited() {
        return warehouse.book(BookTable.WAITED.tableName());
    }

    private void restoreWaiting(long load, String table) {
        if (!Books.has(warehouse, BookTable.WAITED)) {
            return; // the load was made before there was this book, and kept all that waited
        }
        String columns = warehouse.dialect().list(BookTable.WAITING.typed(), Column::name);
        warehouse.update("delete from " + waiting() + " where table_name = ? and noted_by = ?", table, load);
        warehouse.update(
                "insert into " + waiting() + " (" + columns + ") select " + columns + " from " + waited()
                        + " where load = ? and table_name = ?",
                load,
                table);
        warehouse.update("delete from " + waited() + " where load = ? and table_name = ?", load, table);
    }

    /** Forgets what was kept of the books for a table's loads up to one. */
    public void forgetBefore(long last, String table) {
        for (BookTable kept : List.of(BookTable.BEFORE_BOOKS, BookTable.WAITED)) {
            warehouse.update(
                    "delete from " + warehouse.book(kept.tableName()) + " where load <= ? and table_name = ?",
                    last,
                    table);
        }
    }

    /** Puts back what the books had of a table before a load changed it, and forgets the members that its facts made. */
    public void restoreBefore(long load, String table) {
        String before = warehouse.book(BookTable.BEFORE_BOOKS.tableName());
        List<String> kept = warehouse.query(
                "select book from " + before + " where load = ? and table_name = ? and not is_row",
                row -> String.valueOf(row.text(1)),
                load,
                table);
        int most = mostKept();
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
                                                    number <= most ? "value_" + number : "null",
                                                    columns.get(number - 1).type()))
                                    .collect(Collectors.joining(", "))
                            + " from " + before + " where load = ? and table_name = ? and book = ? and is_row",
                    load,
                    table,
                    book);
        }
        warehouse.update("delete from " + before + " where load = ? and table_name = ?", load, table);
        restoreWaiting(load, table);
        warehouse.update(
                "delete from " + warehouse.book(BookTable.RESOLVED.tableName())
                        + " where resolved_by = ? and table_name = ?",
                load,
                table);
        for (BookTable noted : List.of(BookTable.PLACEHOLDERS, BookTable.MISPLACED, BookTable.SEALS)) {
            warehouse.update(
                    "delete from " + warehouse.book(noted.tableName()) + " where load = ? and table_name = ?",
                    load,
                    table);
        }
    }

    /** Notes since which load the rows of a table are kept as they were. */
    public void noteImages(String table, long since) {
        rows.insert(BookTable.IMAGES, List.of(List.of(table, since)));
    }

    /** Notes that the rows of a table are not kept as they were. */
    public void forgetImages(String table) {
        warehouse.update(
                "delete from " + warehouse.book(BookTable.IMAGES.tableName()) + " where table_name = ?", table);
    }

    /** Enters that a load was taken back. */
    public void noteUndone(long load, LocalDateTime at) {
        rows.insert(BookTable.UNDONE, List.of(List.of(load, at)));
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

    /** The table of the loads since which images are kept. */
    public String images() {
        return warehouse.book(BookTable.IMAGES.tableName());
    }

    /** The tables in which a load's facts made members. */
    public List<String> placeholdersOf(long load) {
        return warehouse.query(
                "select distinct table_name from " + warehouse.book(BookTable.PLACEHOLDERS.tableName())
                        + " where load = ? and inserted > 0",
                row -> String.valueOf(row.text(1)),
                load);
    }
}
