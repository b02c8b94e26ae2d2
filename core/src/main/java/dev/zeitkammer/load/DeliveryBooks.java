package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.SetAsideBooks;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.past.BeforeImages;
import dev.zeitkammer.staging.RowForm;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.WaitingRow;
import dev.zeitkammer.step.Marks;
import dev.zeitkammer.step.Stamp;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What a delivery leaves beside its table: decided types, high-water marks, forms of files, retained rows. */
final class DeliveryBooks {

    private final Known known;
    private final Warehouse warehouse;
    private final Definition definition;
    private final Stamp stamp;
    private final Books books;
    private final SetAsideBooks setAsideBooks;
    private Optional<BeforeImages> images = Optional.empty();
    private boolean retains = true;

    DeliveryBooks(Warehouse warehouse, Known known, Definition definition, Stamp stamp) {
        this.known = known;
        this.warehouse = warehouse;
        this.definition = definition;
        this.stamp = stamp;
        this.books = new Books(warehouse);
        this.setAsideBooks = new SetAsideBooks(warehouse);
    }

    /** Of a rehearsal, of which no rows are retained: nothing of it reads them, and not every engine could take that back. */
    DeliveryBooks rehearsed(boolean isRehearsal) {
        retains = !isRehearsal;
        return this;
    }

    /** Keeps what the books had before. */
    DeliveryBooks keeping(BeforeImages before) {
        images = Optional.of(before);
        return this;
    }

    /** Enters it, in the transaction of the table. */
    void enter(StagedRows rows, List<SetAsideRow> setAside, List<WaitingRow> waiting) {
        keepForms(
                Stream.concat(
                        setAside.stream().map(SetAsideRow::file),
                        waiting.stream().map(WaitingRow::file)),
                rows);
        if (!waiting.isEmpty() || rows.hasWaited()) {
            images.ifPresent(kept -> kept.beforeBook("waiting_rows"));
            setAsideBooks.keepWaiting(stamp.load(), definition.table(), rows.waited(), waiting);
        }
        retain(rows);
        rows.inferred().forEach(books::noteTypes);
        noteMark(rows);
    }

    /** Keeps the forms of the files in which rows set aside came, so that they can be written back. */
    void keepForms(Stream<@Nullable String> files, StagedRows rows) {
        Map<String, RowForm> forms = new LinkedHashMap<>();
        files.filter(Objects::nonNull)
                .distinct()
                .forEach(file -> rows.form(file)
                        .or(() -> setAsideBooks.form(definition.table(), file))
                        .ifPresent(form -> forms.put(file, form)));
        setAsideBooks.keepForms(stamp.load(), definition.table(), forms);
    }

    private void retain(StagedRows rows) {
        Input input = rows.delivery().input();
        if (!input.retain() || !retains) {
            return;
        }
        Dialect dialect = warehouse.dialect();
        String schema = warehouse.stagingSchema();
        String name = input.name().text();
        if (warehouse
                .comment(schema, name)
                .filter(comment -> !comment.endsWith(Warehouse.KEPT))
                .isPresent()) {
            throw new ZeitkammerException("Cannot retain the rows of the input \"" + name + "\": there is a table "
                    + schema + "." + name + " that this program does not keep; rename it, or leave out retain");
        }
        String where = input.where().map(Word::text).orElse("true");
        String query = Sql.of("""
                select zk_row as staged_row, ${columns}, zk_bad_column as bad_column, zk_bad_text as bad_value
                from ${staged} as s
                where ((${where}) or zk_bad_column is not null) and (${is_new})""")
                .with("columns", dialect.list(rows.columns(), column -> dialect.quote(column.name())))
                .with("staged", StagedRows.TABLE)
                .with("where", where)
                .with(
                        "is_new",
                        new Marks(known.marks(definition.table()))
                                .news(input, rows, dialect)
                                .orElse("true"))
                .text();
        dialect.retain(schema, name, query).forEach(warehouse::execute);
    }

    private void noteMark(StagedRows rows) {
        Input input = rows.delivery().input();
        if (input.newer().isEmpty()) {
            return;
        }
        new Marks(known.marks(definition.table()))
                .next(input, rows, warehouse.dialect())
                .flatMap(warehouse::firstText)
                .filter(mark -> !mark.equals(
                        known.marks(definition.table()).get(input.name().text())))
                .ifPresent(mark -> noteMark(input, mark));
    }

    private void noteMark(Input input, String mark) {
        images.ifPresent(kept -> kept.beforeBook("marks"));
        books.noteMark(
                definition.table(),
                input.name().text(),
                input.newer().orElseThrow().column().text(),
                mark);
    }
}
