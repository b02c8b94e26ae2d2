package dev.zeitkammer.engine.postgres;

import java.util.HashMap;
import java.util.Map;

/**
 * Tells the server's planner of tables of which a transaction wrote much. What follows would else be planned for the table that it
 * was before, since the server looks at it by itself only after the transaction, and then in its own time.
 */
final class PlannerStatistics {

    /** So few rows change no plan. */
    private static final long FEW = 1000;

    private final PostgresWarehouse warehouse;
    private final PostgresDialect dialect;
    private final Map<String, Long> learned = new HashMap<>();

    PlannerStatistics(PostgresWarehouse warehouse, PostgresDialect dialect) {
        this.dialect = dialect;
        this.warehouse = warehouse;
    }

    /** A transaction begins. */
    void forget() {
        learned.clear();
    }

    /** Looks at a scratch table that rows were added to. */
    void learnScratch(String scratch, long rows) {
        if (rows > FEW) {
            warehouse.execute(dialect.learn(scratch));
        }
    }

    /**
     * Looks at a table anew where more than a tenth of it was written since it was last looked at.
     *
     * @param table the table in SQL
     */
    void learn(String table) {
        warehouse
                .query(
                        "select coalesce(pg_stat_get_xact_tuples_inserted(oid), 0)"
                                + " + coalesce(pg_stat_get_xact_tuples_updated(oid), 0), cast(greatest(reltuples, 0) as bigint)"
                                + " from pg_class where oid = cast(? as regclass)",
                        row -> new long[] {row.number(1), row.number(2)},
                        table)
                .stream()
                .filter(rows -> rows[0] - learned.getOrDefault(table, 0L) > FEW + rows[1] / 10)
                .forEach(rows -> {
                    warehouse.execute("analyze " + table);
                    learned.put(table, rows[0]);
                });
    }
}
