package dev.zeitkammer.books;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse;
import java.util.Collections;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Adds rows to tables of the books. */
final class BookRows {

    private static final String CARRIED = "zk_carried";

    private final Warehouse warehouse;

    BookRows(Warehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** Adds rows to a table of the books, in one statement. */
    void insert(BookTable table, List<List<@Nullable Object>> rows) {
        if (rows.isEmpty()) {
            return;
        }
        String row = "(" + String.join(", ", Collections.nCopies(rows.get(0).size(), "?")) + ")";
        warehouse.update(
                "insert into " + warehouse.book(table.tableName()) + " values "
                        + String.join(", ", Collections.nCopies(rows.size(), row)),
                rows.stream().flatMap(List::stream).toArray());
    }

    /** Adds many rows to a table of the books, in bulk; their values are in order of its columns. */
    void carry(BookTable table, Iterable<List<@Nullable Object>> rows) {
        List<Column> columns = table.typed();
        warehouse.carry(CARRIED, columns, rows);
        String names = warehouse.dialect().list(columns, Column::name);
        warehouse.execute("insert into " + warehouse.book(table.tableName()) + " (" + names + ") select " + names
                + " from " + CARRIED);
        warehouse.dropScratch(CARRIED);
    }
}
