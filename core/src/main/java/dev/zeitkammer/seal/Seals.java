package dev.zeitkammer.seal;

import dev.zeitkammer.books.SealBooks;
import dev.zeitkammer.books.SealBooks.Sums;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Settings.Sealed;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.past.BeforeImages;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Keeps the seals of tables: what a load did to a table follows from the rows that it wrote, and from how they were before. */
public final class Seals {

    /** What holds where a seal is whole. */
    public static final String CLAIM = "nobody but loads has changed it";

    private final Warehouse warehouse;
    private final SealBooks books;
    private final long load;

    /** @param load the load that changes tables */
    public Seals(Warehouse warehouse, long load) {
        this.warehouse = warehouse;
        this.books = new SealBooks(warehouse);
        this.load = load;
    }

    /**
     * Whether a table has a seal that can be followed.
     *
     * @param method by what its rows were hashed; empty where it has none
     */
    public boolean isFollowed(Optional<String> method) {
        return method.filter(warehouse.hashes()::equals).isPresent();
    }

    /**
     * Enters what the load did to a table that it wrote and whose seal can be followed.
     *
     * @param again whether the load has entered something of the table before, and has written more since
     * @param before the images of the table that were kept; empty where the load only added rows
     */
    public void follow(Definition definition, boolean again, Optional<BeforeImages> before) {
        RowSums sums = new RowSums(definition, warehouse);
        if (!sums.isStamped()) {
            return;
        }
        if (again) {
            books.forgetOwn(definition.table(), load);
        }
        Map<Long, Sums> changes = new LinkedHashMap<>();
        warehouse.query(query(definition, sums, before), row -> {
            Sums found = new Sums(
                    row.number(2), row.number(3), List.of(row.number(4), row.number(5), row.number(6), row.number(7)));
            int sign = (int) row.number(1);
            changes.merge(found.writtenBy(), nothing(found).plus(found, sign), (left, right) -> left.plus(right, 1));
            return true;
        });
        books.note(
                definition.table(),
                load,
                warehouse.hashes(),
                changes.values().stream().filter(each -> !each.isNothing()).toList());
    }

    private static Sums nothing(Sums of) {
        return new Sums(of.writtenBy(), 0, List.of(0L, 0L, 0L, 0L));
    }

    /** Rows that carry the number of the load; rows as they were; and rows that it wrote without setting its number. */
    private String query(Definition definition, RowSums sums, Optional<BeforeImages> before) {
        String target = warehouse.table(definition.table());
        List<String> parts = new ArrayList<>();
        parts.add(signed(1, sums, target + " as t where " + sums.writtenBy("t") + " = " + load));
        before.flatMap(BeforeImages::kept).ifPresent(images -> {
            String first = "(\n" + images.firstOf(" = " + load) + "\n)";
            parts.add(signed(-1, sums, first + " as t"));
            if (!images.key().isEmpty() && !before.get().stampedAll()) {
                parts.add(signed(
                        1,
                        sums,
                        target + " as t join " + first + " as b on " + images.sameKey("t", "b") + " where "
                                + sums.writtenBy("t") + " <> " + load));
            }
        });
        return sums.of("(\n" + String.join("\nunion all\n", parts) + "\n) as t", "t.zk_sign");
    }

    private static String signed(int sign, RowSums sums, String rows) {
        return "select " + sign + " as zk_sign, " + sums.columns("t") + " from " + rows;
    }

    /** Seals a table as it stands. */
    public void anew(Definition definition) {
        RowSums sums = new RowSums(definition, warehouse);
        books.forget(definition.table());
        if (!sums.isStamped()) {
            return;
        }
        List<Sums> standing = warehouse.query(
                sums.of(warehouse.table(definition.table()) + " as t"),
                row -> new Sums(
                        row.number(2),
                        row.number(3),
                        List.of(row.number(4), row.number(5), row.number(6), row.number(7))));
        books.note(definition.table(), load, warehouse.hashes(), standing);
    }

    /**
     * Says or stops where somebody changed a table by hand.
     *
     * @return what is to be said; empty where nothing is
     * @throws GuardException where that stops the load
     */
    public static Optional<String> asked(Definition definition, Warehouse warehouse, Sealed sealed) {
        if (sealed == Sealed.IGNORE || !warehouse.has(definition.table())) {
            return Optional.empty();
        }
        Optional<String> changed = broken(definition, warehouse)
                .map(broken -> warehouse.query(broken, row -> row.number(1)))
                .filter(loads -> !loads.isEmpty())
                .map(loads -> definition.table() + " was changed by hand since it was loaded (rows of load "
                        + loads.stream().sorted().map(String::valueOf).collect(Collectors.joining(", "))
                        + "); zeitkammer verify shows it, and with --accept it counts as meant");
        changed.filter(words -> sealed == Sealed.STOP).ifPresent(words -> {
            throw new GuardException(words);
        });
        return changed;
    }

    /**
     * The seal of a table as the books have it: its rows and the four sums, in hexadecimal digits; empty where it has none.
     */
    public static Optional<String> told(Definition definition, Warehouse warehouse) {
        SealBooks books = new SealBooks(warehouse);
        return books.method(definition.table()).map(method -> {
            List<Long> sums = warehouse
                    .query(
                            "select sum(table_rows), sum(part_1), sum(part_2), sum(part_3), sum(part_4) from ("
                                    + books.sums(definition.table()) + "\n) as sealed",
                            row -> IntStream.rangeClosed(1, 5)
                                    .mapToObj(row::number)
                                    .toList())
                    .get(0);
            return sums.get(0) + " rows "
                    + sums.stream().skip(1).map("%016x"::formatted).collect(Collectors.joining()) + " (" + method + ")";
        });
    }

    /**
     * A query of what does not agree: the load, how many of its rows were sealed, and how many stand; empty where the table has no
     * seal, or one by another version of its engine.
     */
    public static Optional<String> broken(Definition definition, Warehouse warehouse) {
        SealBooks books = new SealBooks(warehouse);
        RowSums sums = new RowSums(definition, warehouse);
        if (!sums.isStamped()
                || books.method(definition.table())
                        .filter(warehouse.hashes()::equals)
                        .isEmpty()) {
            return Optional.empty();
        }
        return Optional.of(Sql.of("""
                select coalesce(s.written_by, t.written_by) as written_by_load,
                  coalesce(s.table_rows, 0) as rows_sealed, coalesce(t.table_rows, 0) as rows_standing
                from (
                ${sealed}
                ) as s
                full join (
                ${standing}
                ) as t on t.written_by = s.written_by
                where s.written_by is null or t.written_by is null or s.table_rows <> t.table_rows
                  or s.part_1 <> t.part_1 or s.part_2 <> t.part_2 or s.part_3 <> t.part_3 or s.part_4 <> t.part_4""")
                .with("sealed", books.sums(definition.table()))
                .with("standing", sums.of(warehouse.table(definition.table()) + " as t"))
                .text());
    }
}
