package dev.zeitkammer.past;

import dev.zeitkammer.books.UndoBooks;
import dev.zeitkammer.definition.KeptImages;
import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;

/**
 * Keeps what one load of a table writes over: rows of the table before they are changed or removed, and the books' rows of the
 * table. Rows that the load inserts need no image, since they tell which load inserted them.
 */
public final class BeforeImages {

    private final Warehouse warehouse;
    private final UndoBooks books;
    private final ImageTable images;
    private final String table;
    private final long load;
    private final KeptImages kept;
    private final Set<String> keptBooks = new HashSet<>();
    private final Set<String> written = new HashSet<>();
    private int nth;
    private final Set<String> everySet;
    private boolean rewrites;

    /**
     * @param load the load whose changes are to be kept
     * @param kept for how many loads anything is kept
     */
    public BeforeImages(ImageTable images, long load, KeptImages kept) {
        this.warehouse = images.warehouse();
        this.books = new UndoBooks(warehouse);
        this.images = images;
        this.table = images.of();
        this.load = load;
        this.kept = kept;
        this.everySet = new HashSet<>(Set.of(images.updatedBy()));
    }

    /** The name of the table whose rows are kept. */
    public String of() {
        return table;
    }

    /** Whether the load wrote a table, named in SQL. */
    public boolean wrote(String target) {
        return written.contains(target);
    }

    /** Whether rows of the table were changed or removed of which there is no image. */
    public boolean lostAny() {
        return rewrites && nth == 0;
    }

    /** Whether every row that was written over got the number of the load. */
    public boolean stampedAll() {
        return !everySet.isEmpty();
    }

    /** The images that were kept; empty where none was. */
    public Optional<ImageTable> kept() {
        return nth == 0 ? Optional.empty() : Optional.of(images);
    }

    /** Keeps the rows that a change is about to write over or to remove. */
    public void before(TableChange change) {
        written.add(change.table());
        rewrites |= change.table().equals(images.target()) && !(change instanceof TableChange.Insert);
        if (!kept.any() || !change.table().equals(images.target()) || !images.isStamped()) {
            return;
        }
        if (change instanceof TableChange.Rewrite rewrite) {
            everySet.retainAll(rewrite.set().keySet());
            keep(rewrite.matching());
        } else if (change instanceof TableChange.Remove remove) {
            keep(remove.matching());
        }
    }

    private void keep(Matching matching) {
        if (nth == 0) {
            images.align();
        }
        nth++;
        Dialect dialect = warehouse.dialect();
        warehouse.execute(Sql.of("""
                insert into ${images} (${load_column}, ${nth_column}, ${columns})
                select ${load}, ${nth}, ${values}
                from ${target} as t
                join ${source} as c on ${on}
                where ${inserted_by} <> ${load}""")
                .with("images", images.table())
                .with("load_column", ImageTable.LOAD)
                .with("nth_column", ImageTable.NTH)
                .with("columns", dialect.columns(images.columns()))
                .with("load", load)
                .with("nth", nth)
                .with("values", dialect.list(images.columns(), name -> dialect.column("t", name)))
                .with("target", images.target())
                .with("source", matching.relation())
                .with("on", matching.on())
                .with("inserted_by", images.insertedBy("t"))
                .text());
    }

    /** Keeps the facts that a change is about to take from those that wait. */
    public void before(BookChange change) {
        if (kept.any()
                && change instanceof BookChange.Remove remove
                && remove.book().equals(warehouse.book("waiting"))) {
            books.keepWaited(load, remove.condition());
        }
    }

    /** Keeps the rows that a table of the books has of this table, before the load changes them. */
    public void beforeBook(String book) {
        if (kept.any() && keptBooks.add(book)) {
            books.keepBefore(load, table, book);
        }
    }

    /**
     * Notes that images of this load were kept, or that none are kept from now on.
     *
     * @param since the load since which they have been kept without a gap, as far as is known
     */
    public void note(Optional<Long> since) {
        if (!kept.any()) {
            since.ifPresent(none -> books.forgetImages(table));
        } else if (since.isEmpty() && images.isStamped()) {
            books.noteImages(table, load);
        } else if (since.isPresent() && since.get() <= load - kept.loads()) {
            forgetUntil(load - kept.loads());
        }
    }

    /** Images of older loads than are kept. */
    private void forgetUntil(long last) {
        if (images.stands()) {
            warehouse.execute(warehouse.dialect().delete(images.table(), "t." + ImageTable.LOAD + " <= " + last));
        }
        books.forgetBefore(last, table);
        books.forgetImages(table);
        books.noteImages(table, last + 1);
    }
}
