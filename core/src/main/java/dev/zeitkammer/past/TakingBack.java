package dev.zeitkammer.past;

import dev.zeitkammer.books.UndoBooks;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import java.util.Optional;

/** Takes back what one load did to one table: rows that it inserted are gone, and rows that it wrote over are as they were. */
public final class TakingBack {

    private static final Relation ROWS =
            Relation.of("zk_rows_before", "A row as it was before the load.", "zk_load", "zk_nth", "zk_place");

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final ImageTable images;
    private final long load;
    private final String those;
    private final Optional<String> isMember;

    public TakingBack(Warehouse warehouse, Definition definition, long load) {
        this(
                new ImageTable(warehouse, definition),
                load,
                " = " + load,
                Optional.of(definition)
                        .filter(Dimension.class::isInstance)
                        .map(Dimension.class::cast)
                        .map(dimension -> dimension.isMember(warehouse.dialect().column("t", dimension.keyColumn()))));
    }

    private TakingBack(ImageTable images, long load, String those, Optional<String> isMember) {
        this.warehouse = images.warehouse();
        this.dialect = warehouse.dialect();
        this.images = images;
        this.load = load;
        this.those = those;
        this.isMember = isMember;
    }

    /** What a load and all after it did to a table. */
    public static TakingBack since(long load, ImageTable images) {
        return new TakingBack(images, load, " >= " + load, Optional.empty());
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
        return images.insertedBy("t")
                + those
                + isMember.map(member -> " and " + member).orElse("");
    }

    /** Takes it back, inside a transaction. */
    public Taken take() {
        Taken taken = rows();
        new UndoBooks(warehouse).restoreBefore(load, images.of());
        return taken;
    }

    /** Takes the rows back, inside a transaction, and nothing of the books. */
    public Taken rows() {
        long removed = warehouse.number("select count(*) from " + images.target() + " as t where " + inserted());
        warehouse.execute(dialect.delete(images.target(), inserted()));
        long restored = images.stands() && !images.key().isEmpty() ? restore() : 0;
        return new Taken(images.of(), removed, restored);
    }

    private long restore() {
        images.align();
        warehouse.keep(ROWS.name(), images.firstOf(those));
        warehouse.execute(dialect.remove(images.target(), new Matching(ROWS, images.sameKey("c", "t"))));
        String columns = dialect.columns(images.columns());
        long restored = warehouse.number("select count(*) from " + ROWS);
        warehouse.execute("insert into " + images.target() + " (" + columns + ") select " + columns + " from " + ROWS);
        warehouse.execute(dialect.delete(images.table(), "t." + ImageTable.LOAD + those));
        warehouse.dropScratch(ROWS.name());
        return restored;
    }
}
