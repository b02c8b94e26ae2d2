package dev.zeitkammer.past;

import dev.zeitkammer.books.Known;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import java.util.Optional;

/** A table as it was known after a load: what it said then, whatever has become of it since. */
public final class KnownTable {

    private final Warehouse warehouse;
    private final Definition definition;
    private final Dialect dialect;
    private final ImageTable images;

    public KnownTable(Warehouse warehouse, Definition definition) {
        this.warehouse = warehouse;
        this.definition = definition;
        this.dialect = warehouse.dialect();
        this.images = new ImageTable(warehouse, definition);
    }

    /**
     * A query of the table's rows as they were after a load.
     *
     * @throws ZeitkammerException when rows as they were have not been kept since
     */
    public String after(long load) {
        if (!images.isStamped()) {
            throw new ZeitkammerException("Cannot tell what " + definition.table() + " said after load " + load
                    + ": its rows do not tell which load wrote them");
        }
        Optional<Long> since = Known.of(warehouse).imagesSince(definition.table());
        if (since.isEmpty() || since.get() > load + 1) {
            throw new ZeitkammerException("Cannot tell what " + definition.table() + " said after load " + load
                    + ": rows as they were before are kept "
                    + since.map(first -> "since load " + first + " only").orElse("of none of its loads")
                    + "; see images: in zeitkammer.yaml");
        }
        return images.stands() && !images.key().isEmpty() ? withImages(load) : inserted(load, "true");
    }

    private String inserted(long load, String condition) {
        return Sql.of("""
                select ${columns}
                from ${target} as zk_t
                where ${inserted_by} <= ${load} and ${condition}""")
                .with("columns", dialect.list(images.columns(), name -> dialect.column("zk_t", name)))
                .with("target", images.target())
                .with("inserted_by", images.insertedBy("zk_t"))
                .with("load", load)
                .with("condition", condition)
                .text();
    }

    private String withImages(long load) {
        String untouched = "not exists (select 1 from " + images.table() + " as i where i." + ImageTable.LOAD + " > "
                + load + " and " + images.sameKey("i", "zk_t") + ")";
        return Sql.of("""
                ${inserted}
                union all
                select ${columns}
                from (
                  select i.*, row_number() over (partition by ${key} order by ${load_column}, ${nth_column}) as zk_place
                  from ${images} as i
                  where ${load_column} > ${load}
                ) as b
                where zk_place = 1 and ${inserted_by} <= ${load}""")
                .with("inserted", inserted(load, untouched))
                .with("columns", dialect.list(images.columns(), name -> dialect.column("b", name)))
                .with("key", dialect.columns(images.key()))
                .with("load_column", ImageTable.LOAD)
                .with("nth_column", ImageTable.NTH)
                .with("images", images.table())
                .with("load", load)
                .with("inserted_by", images.insertedBy("b"))
                .text();
    }
}
