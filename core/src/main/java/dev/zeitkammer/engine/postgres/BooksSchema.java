package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.Warehouse;
import java.util.Optional;

/**
 * The schema of the books. Those of the first schema of a database stand in {@code zeitkammer}; where another schema of the
 * same database is a warehouse too, its books stand in a schema of their own.
 */
final class BooksSchema {

    private static final String STANDARD = "zeitkammer";
    private static final String OWNER = "Books of the tables in ";

    private BooksSchema() {}

    static String of(Warehouse warehouse, String schema) {
        Optional<String> owner = warehouse.firstText(
                "select obj_description(oid, 'pg_namespace') from pg_namespace where nspname = ?", STANDARD);
        boolean isTaken = owner.filter(text -> text.startsWith(OWNER) && !text.equals(OWNER + schema))
                .isPresent();
        return isTaken ? STANDARD + "_" + schema : STANDARD;
    }

    static void create(Warehouse warehouse, String books, String schema) {
        String name = warehouse.dialect().quote(books);
        if (warehouse.number("select count(*) from pg_namespace where nspname = ?", books) == 0) {
            warehouse.execute("create schema " + name);
            warehouse.execute(
                    "comment on schema " + name + " is " + warehouse.dialect().text(OWNER + schema));
        }
    }
}
