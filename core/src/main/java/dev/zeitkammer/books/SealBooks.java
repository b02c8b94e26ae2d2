package dev.zeitkammer.books;

import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What the books hold of seals: for each load that changed a table, what that did to the sums over the rows that each load wrote
 * last. All of a table's entries together are the sums over its rows as they should stand.
 */
public final class SealBooks {

    private final Warehouse warehouse;
    private final BookRows rows;

    public SealBooks(Warehouse warehouse) {
        this.warehouse = warehouse;
        this.rows = new BookRows(warehouse);
    }

    /**
     * Sums over rows that one load wrote last, or what is to be added to them.
     *
     * @param writtenBy the load
     * @param rows how many rows
     * @param parts the sums of the four parts of their hashes
     */
    public record Sums(long writtenBy, long rows, List<Long> parts) {

        public Sums {
            parts = List.copyOf(parts);
        }

        /** Whether they are of no row. */
        public boolean isNothing() {
            return rows == 0 && parts.stream().allMatch(part -> part == 0);
        }

        /** Both together, or what is left without the other. */
        public Sums plus(Sums other, int sign) {
            List<Long> sums = new ArrayList<>();
            for (int part = 0; part < parts.size(); part++) {
                sums.add(parts.get(part) + sign * other.parts.get(part));
            }
            return new Sums(writtenBy, rows + sign * other.rows, sums);
        }
    }

    /** Enters what a load did to a table's sums. */
    public void note(String table, long load, String method, List<Sums> sums) {
        List<List<@Nullable Object>> entries = new ArrayList<>();
        for (Sums each : sums) {
            List<@Nullable Object> entry = new ArrayList<>(List.of(load, table, each.writtenBy(), method, each.rows()));
            entry.addAll(each.parts());
            entries.add(entry);
        }
        rows.insert(BookTable.SEALS, entries);
    }

    /** Forgets all that is known of a table's sums. */
    public void forget(String table) {
        warehouse.update("delete from " + book() + " where table_name = ?", table);
    }

    /** Forgets what a load did to the sums over its own rows, which are about to be entered anew. */
    public void forgetOwn(String table, long load) {
        warehouse.update(
                "delete from " + book() + " where table_name = ? and load = ? and written_by = ?", table, load, load);
    }

    /** By what a table's rows were hashed; empty where it has no seal. */
    public Optional<String> method(String table) {
        if (!Books.has(warehouse, BookTable.SEALS)) {
            return Optional.empty();
        }
        return warehouse
                .query(
                        "select max(method) from " + book() + " where table_name = ?",
                        row -> Optional.ofNullable(row.text(1)),
                        table)
                .get(0);
    }

    /** SQL for the sums of a table as they should stand, by the load that wrote the rows last. */
    public String sums(String table) {
        return Sql.of("""
                select written_by, ${rows} as table_rows, sum(part_1) as part_1, sum(part_2) as part_2,
                  sum(part_3) as part_3, sum(part_4) as part_4
                from ${seals}
                where table_name = ${table}
                group by written_by
                having sum(table_rows) <> 0 or sum(part_1) <> 0 or sum(part_2) <> 0 or sum(part_3) <> 0 or sum(part_4) <> 0""")
                .with("seals", book())
                .with("rows", warehouse.dialect().cast("sum(table_rows)", SqlType.BIGINT))
                .with("table", warehouse.dialect().text(table))
                .text();
    }

    /**
     * Enters that changes by hand were meant.
     *
     * @param differences for each load that inserted them, how many rows more there are than the books said
     */
    public void accept(Accepted acceptance, List<long[]> differences) {
        List<List<@Nullable Object>> entries = new ArrayList<>();
        for (long[] difference : differences.isEmpty() ? List.of(new long[] {acceptance.load(), 0}) : differences) {
            entries.add(List.of(
                    acceptance.table(),
                    acceptance.load(),
                    difference[0],
                    difference[1],
                    acceptance.at(),
                    acceptance.by(),
                    acceptance.reason()));
        }
        rows.insert(BookTable.ACCEPTED, entries);
    }

    /**
     * An acceptance of changes by hand.
     *
     * @param load the newest load then; none up to it can be taken back any more
     * @param rows how many rows more there were than the books said
     */
    public record Accepted(String table, long load, long rows, LocalDateTime at, String by, String reason) {}

    /** What was accepted, in order of its time. */
    public List<Accepted> accepted() {
        if (!Books.has(warehouse, BookTable.ACCEPTED)) {
            return List.of();
        }
        return warehouse.query(
                "select table_name, load, sum(difference), accepted_at, accepted_by, reason from "
                        + warehouse.book(BookTable.ACCEPTED.tableName())
                        + " group by table_name, load, accepted_at, accepted_by, reason order by accepted_at, table_name",
                row -> new Accepted(
                        String.valueOf(row.text(1)),
                        row.number(2),
                        row.number(3),
                        (LocalDateTime) row.value(4),
                        String.valueOf(row.text(5)),
                        String.valueOf(row.text(6))));
    }

    private String book() {
        return warehouse.book(BookTable.SEALS.tableName());
    }
}
