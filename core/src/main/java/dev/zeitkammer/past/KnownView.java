package dev.zeitkammer.past;

import dev.zeitkammer.books.UndoBooks;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import java.util.ArrayList;
import java.util.List;

/**
 * A view of everything that a table has ever said, each row with the loads after which it said so: a report with {@code where 7
 * between known_from_load and known_until_load} runs as it did after load 7.
 */
public final class KnownView {

    /** The load from which on a row stood as it is shown. */
    static final String FROM = "known_from_load";

    /** The last load after which it did. */
    static final String UNTIL = "known_until_load";

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Definition definition;
    private final ImageTable images;
    private final Word name;

    /** @param definition one that names the view */
    public KnownView(Warehouse warehouse, Definition definition) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.definition = definition;
        this.images = new ImageTable(warehouse, definition);
        this.name = definition.knownView().orElseThrow();
    }

    /** Takes it away before the table is changed, on which it stands. */
    public void drop() {
        if (!warehouse.viewColumns(name.text()).isEmpty()) {
            refuseForeign();
            warehouse.execute(dialect.dropView(warehouse.table(name.text())));
        }
    }

    /** Makes it where it is missing, or lacks a column. */
    public void make() {
        if (images.key().isEmpty() || !images.isStamped()) {
            return;
        }
        images.align();
        List<String> wanted = new ArrayList<>(images.columns());
        wanted.add(FROM);
        wanted.add(UNTIL);
        List<String> standing = warehouse.viewColumns(name.text()).stream()
                .map(column -> column.name())
                .toList();
        if (standing.equals(wanted)) {
            return;
        }
        refuseForeign();
        warehouse.execute(dialect.createView(warehouse.table(name.text()), query()));
        warehouse.execute(dialect.commentOnView(
                warehouse.table(name.text()),
                "Everything that " + definition.table() + " has said, and after which loads"));
    }

    private void refuseForeign() {
        boolean isForeign = warehouse.has(name.text())
                || (!warehouse.viewColumns(name.text()).isEmpty()
                        && warehouse
                                .comment(warehouse.schema(), name.text())
                                .filter(comment -> comment.endsWith(Warehouse.KEPT))
                                .isEmpty());
        if (isForeign) {
            throw new ZeitkammerException("The view " + name + " of " + definition.table()
                    + " cannot be made: there is a table or a view of that name that this program does not keep; choose"
                    + " another name");
        }
    }

    /** A state ends before the load that wrote over it, and begins with the load that wrote over the one before. */
    private String query() {
        String since = "coalesce((select max(since) - 1 from " + new UndoBooks(warehouse).images()
                + " where table_name = " + dialect.text(definition.table()) + "), 0)";
        String inserted = dialect.quote(definition.conventions().column(AuditColumn.INSERTED_BY));
        return Sql.of("""
                select ${columns},
                  greatest(coalesce(known_before, 0), ${inserted}, ${since}) as ${from},
                  known_until as ${until}
                from (
                  select s.*, lag(known_until) over (partition by ${key} order by known_until) + 1 as known_before
                  from (
                    select ${current_columns}, 9223372036854775806 as known_until
                    from ${target} as t
                    union all
                    select ${image_columns}, i.${load} - 1 as known_until
                    from (
                      select b.*, row_number() over (partition by ${key}, ${load} order by ${nth}) as zk_place
                      from ${images} as b
                    ) as i
                    where i.zk_place = 1
                  ) as s
                ) as told""")
                .with("columns", dialect.columns(images.columns()))
                .with("inserted", inserted)
                .with("since", since)
                .with("from", FROM)
                .with("until", UNTIL)
                .with("key", dialect.columns(images.key()))
                .with("current_columns", dialect.list(images.columns(), column -> dialect.column("t", column)))
                .with("image_columns", dialect.list(images.columns(), column -> dialect.column("i", column)))
                .with("target", images.target())
                .with("images", images.table())
                .with("load", ImageTable.LOAD)
                .with("nth", ImageTable.NTH)
                .text();
    }
}
