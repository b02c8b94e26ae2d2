package dev.zeitkammer.past;

import dev.zeitkammer.books.UndoBooks;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;

/** Takes back what one load did to one table: rows that it inserted are gone, and rows that it wrote over are as they were. */
public final class TakingBack {

    private static final Relation ROWS =
            Relation.of("zk_rows_before", "A row as it was before the load.", "zk_load", "zk_nth", "zk_place");

    private final Warehouse warehouse;
    private final Definition definition;
    private final Dialect dialect;
    private final ImageTable images;
    private final long load;

    public TakingBack(Warehouse warehouse, Definition definition, long load) {
        this.warehouse = warehouse;
        this.definition = definition;
        this.dialect = warehouse.dialect();
        this.images = new ImageTable(warehouse, definition);
        this.load = load;
    }

    /**
     * What is taken back.
     *
     * @param removed the rows that the load inserted
     * @param restored the rows that it changed or removed
     */
    public record Taken(String table, long removed, long restored) {}

    /** SQL for the rows that the load inserted, alias {@code t}; reserved members stay. */
    public String inserted() {
        String own = images.insertedBy("t") + " = " + load;
        return definition instanceof Dimension dimension
                ? own + " and " + dialect.column("t", dimension.keyColumn()) + " >= 0"
                : own;
    }

    /** Takes it back, inside a transaction. */
    public Taken take() {
        long removed = warehouse.number("select count(*) from " + images.target() + " as t where " + inserted());
        warehouse.execute(dialect.delete(images.target(), inserted()));
        long restored = images.stands() && !images.key().isEmpty() ? restore() : 0;
        new UndoBooks(warehouse).restoreBefore(load, definition.table());
        return new Taken(definition.table(), removed, restored);
    }

    private long restore() {
        images.align();
        warehouse.keep(
                ROWS.name(),
                Sql.of("""
                select b.*
                from (
                  select i.*, row_number() over (partition by ${key} order by ${nth_column}) as zk_place
                  from ${images} as i
                  where ${load_column} = ${load}
                ) as b
                where zk_place = 1""")
                        .with("key", dialect.columns(images.key()))
                        .with("nth_column", ImageTable.NTH)
                        .with("load_column", ImageTable.LOAD)
                        .with("images", images.table())
                        .with("load", load)
                        .text());
        warehouse.execute(dialect.remove(images.target(), new Matching(ROWS, images.sameKey("c", "t"))));
        String columns = dialect.columns(images.columns());
        long restored = warehouse.number("select count(*) from " + ROWS);
        warehouse.execute("insert into " + images.target() + " (" + columns + ") select " + columns + " from " + ROWS);
        warehouse.execute(dialect.delete(images.table(), "t." + ImageTable.LOAD + " = " + load));
        warehouse.dropScratch(ROWS.name());
        return restored;
    }
}
