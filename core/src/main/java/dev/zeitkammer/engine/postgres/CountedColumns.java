package dev.zeitkammer.engine.postgres;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The columns that the server itself counts, which must go on behind the keys that a load has given. */
final class CountedColumns {

    private final PostgresWarehouse warehouse;
    private @Nullable Map<String, List<String>> statements;

    CountedColumns(PostgresWarehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** Lets the server count on behind what stands in a table. */
    void countOn(String table) {
        statements().getOrDefault(table, List.of()).forEach(sql -> warehouse.query(sql, row -> true));
    }

    /**
     * For tables of which the database itself counts a column, such as tables that others made: statements after which it counts
     * on behind the keys that stand.
     */
    private Map<String, List<String>> statements() {
        if (statements == null) {
            Map<String, List<String>> found = new HashMap<>();
            warehouse.query(
                    "select c.relname, a.attname, pg_get_serial_sequence(a.attrelid::regclass::text, a.attname)"
                            + " from pg_attribute as a join pg_class as c on c.oid = a.attrelid"
                            + " join pg_namespace as n on n.oid = c.relnamespace"
                            + " where n.nspname = ? and c.relkind in ('r', 'p') and a.attnum > 0 and not a.attisdropped"
                            + " and (a.attidentity <> '' or a.atthasdef)"
                            + " and pg_get_serial_sequence(a.attrelid::regclass::text, a.attname) is not null",
                    row -> {
                        String table = warehouse.table(String.valueOf(row.text(1)));
                        return found.computeIfAbsent(table, first -> new ArrayList<>())
                                .add(passed(table, String.valueOf(row.text(2)), String.valueOf(row.text(3))));
                    },
                    warehouse.schema());
            statements = found;
        }
        return statements;
    }

    private String passed(String table, String column, String sequence) {
        return "select setval(" + warehouse.dialect().text(sequence) + ", max("
                + warehouse.dialect().quote(column) + ")) from " + table + " having max("
                + warehouse.dialect().quote(column) + ") > (select last_value from " + sequence + ")";
    }
}
