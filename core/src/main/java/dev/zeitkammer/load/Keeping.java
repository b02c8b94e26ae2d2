package dev.zeitkammer.load;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.align.Aligning.Retyped;
import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.ExtraRun;
import dev.zeitkammer.books.Known;
import dev.zeitkammer.books.SetAsideBooks;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Keep;
import dev.zeitkammer.definition.KeptImages;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.past.BeforeImages;
import dev.zeitkammer.past.ImageTable;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.KeptTable;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/**
 * Takes deliveries into the tables of inputs that remember the latest row of each key, before any table is loaded that reads
 * them.
 */
final class Keeping {

    private static final Relation LATEST = Relation.of(
            "zk_latest",
            "The latest row of each key in the delivery, and whether it takes the kept one away.",
            "zk_deletes");
    private static final Relation CHANGED =
            Relation.of("zk_kept_anew", "Rows that differ from the ones that are kept of their keys.");

    private final LoadContext context;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Staging staging;
    private final Books books;
    private final SetAsideBooks setAsideBooks;

    Keeping(LoadContext context) {
        this.context = context;
        this.warehouse = context.warehouse();
        this.dialect = warehouse.dialect();
        this.staging = new Staging(warehouse, context.project().folder());
        this.books = new Books(warehouse);
        this.setAsideBooks = new SetAsideBooks(warehouse);
    }

    /** Keeps what is delivered of some inputs, each in a transaction of its own. */
    void keep(Set<Input> inputs) {
        for (Input input : inputs) {
            try {
                Known known = Known.of(warehouse);
                Earlier earlier = Earlier.withoutWaiting(known::decidedTypes, Map.of());
                staging.delivery(input, context.stamp().date(), earlier)
                        .ifPresent(delivery -> inTransaction(() -> keep(input, delivery, earlier, known)));
            } catch (ZeitkammerException refused) {
                failed(input, refused);
                return;
            }
        }
    }

    /** What reads the input would read old rows, so that nothing is loaded. */
    private void failed(Input input, ZeitkammerException refused) {
        context.listener().cause(refused);
        if (context.request().rehearsal()) {
            throw refused;
        }
        ExtraRun run = new ExtraRun(
                "keep " + input.name(), "before the load", ExtraRun.FAILED, 0, String.valueOf(refused.getMessage()));
        context.extra().add(run, warehouse);
    }

    private void inTransaction(Supplier<Boolean> work) {
        if (context.request().rehearsal()) {
            work.get();
        } else {
            warehouse.inTransaction(work);
        }
    }

    private boolean keep(Input input, Delivery delivery, Earlier earlier, Known known) {
        Keep keep = input.keep().orElseThrow();
        KeptTable table = new KeptTable(input, warehouse);
        List<Column> standing = table.columns();
        Wanted wanted = new Wanted(delivery);
        keep.by().forEach(column -> wanted.column(column, "key of what is kept", Optional.empty()));
        keep.order().ifPresent(column -> wanted.column(column, "order of what is kept", Optional.empty()));
        keep.compare().forEach(column -> wanted.column(column, "comparison of what is kept", Optional.empty()));
        delivery.header().forEach(column -> wanted.column(column, typeOf(standing, column)));
        wanted.throwIfMissing();
        StagedRows staged = staging.stage(delivery, wanted, earlier);
        refuseOwnNames(input, staged);
        Expressions expressions = new Expressions(warehouse);
        input.where().ifPresent(where -> expressions.condition(where, "\"where\""));
        keep.when().ifPresent(when -> expressions.condition(when, "\"when\""));
        expressions.throwIfAny();
        setAside(input, keep, staged);
        KeptTable away = table.away();
        List<Column> awayColumns = away.columns();
        if (!awayColumns.isEmpty()) {
            fit(input, away, awayColumns, staged.columns());
        }
        warehouse.keep(LATEST.name(), latest(input, keep, staged, awayColumns.isEmpty() ? "" : newer(keep, away)));
        if (standing.isEmpty()) {
            make(table, staged.columns());
        } else {
            fit(input, table, standing, staged.columns());
            change(input, table, standing, staged.columns());
        }
        if (keep.when().isPresent() || !awayColumns.isEmpty()) {
            rememberAway(input, table, awayColumns.isEmpty());
            noteImages(input, away, known);
        }
        warehouse.dropScratch(LATEST.name());
        noteImages(input, table, known);
        staged.inferred().forEach(books::noteTypes);
        return true;
    }

    private static Optional<SqlType> typeOf(List<Column> columns, String name) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(name))
                .map(Column::type)
                .findFirst();
    }

    private static void refuseOwnNames(Input input, StagedRows staged) {
        List<Problem> taken = staged.columns().stream()
                .map(Column::name)
                .filter(name -> KeptTable.STAMPS.contains(name.toLowerCase(Locale.ROOT)))
                .map(name -> new Problem(
                        input.name().place(),
                        "the staged column \"" + name + "\" has the name of a column that is kept beside the rows of \""
                                + input.name() + "\"; give it another one, with a query over this input for instance"))
                .toList();
        if (!taken.isEmpty()) {
            throw new DefinitionException(taken);
        }
    }

    /** Rows that cannot be kept: those with a bad value, or with a gap in the key. */
    private void setAside(Input input, Keep keep, StagedRows staged) {
        String blank = keep.by().stream()
                .map(column -> "when " + dialect.quote(column.text()) + " is null then " + dialect.text(column.text()))
                .collect(Collectors.joining(" "));
        String sql = Sql.of("""
                select zk_row, case when zk_bad_column is not null then 'bad value' else 'blank key' end,
                  coalesce(zk_bad_column, case ${blank} end), zk_bad_text, false
                from ${staged} as s
                where zk_bad_column is not null or case ${blank} end is not null""")
                .with("blank", blank)
                .with("staged", StagedRows.TABLE)
                .text();
        SetAsideReading aside = new SetAsideReading(warehouse, context.stamp(), KeptTable.shown(input));
        List<SetAsideRow> rows = new ArrayList<>(aside.unusable(staged));
        rows.addAll(aside.of(sql, staged).setAside());
        setAsideBooks.keep(rows);
        if (!rows.isEmpty()) {
            context.listener()
                    .notes(
                            KeptTable.shown(input),
                            List.of(Counted.rows(rows.size()) + " of the input \"" + input.name()
                                    + "\" cannot be kept and " + (rows.size() == 1 ? "is" : "are") + " set aside"));
        }
    }

    private String latest(Input input, Keep keep, StagedRows staged, String newer) {
        List<String> names = staged.columns().stream().map(Column::name).toList();
        String filled = keep.by().stream()
                .map(column -> dialect.quote(column.text()) + " is not null")
                .collect(Collectors.joining(" and "));
        return Sql.of("""
                select ${columns}, coalesce(${deletes}, false) as zk_deletes
                from (
                  select s.*, row_number() over (partition by ${by} order by ${order}zk_row desc) as zk_nth
                  from ${staged} as s
                  where zk_bad_column is null and ${filled} and coalesce(${where}, false)
                ) as k
                where zk_nth = 1${newer}""")
                .with("newer", newer)
                .with("columns", dialect.columns(names))
                .with("deletes", keep.when().map(Expressions::sql).orElse("false"))
                .with("by", dialect.columns(keep.by().stream().map(Word::text).toList()))
                .with(
                        "order",
                        keep.order()
                                .map(column -> dialect.quote(column.text()) + " desc nulls last, ")
                                .orElse(""))
                .with("staged", StagedRows.TABLE)
                .with("filled", filled)
                .with("where", input.where().map(Expressions::sql).orElse("true"))
                .text();
    }

    private Map<String, String> stamps(boolean inserted) {
        Map<String, String> stamps = new LinkedHashMap<>();
        String at = dialect.timestamp(context.stamp().at());
        String by = dialect.cast(String.valueOf(context.stamp().load()), SqlType.BIGINT);
        if (inserted) {
            stamps.put(Conventions.STANDARD.column(AuditColumn.INSERTED_AT), at);
            stamps.put(Conventions.STANDARD.column(AuditColumn.INSERTED_BY), by);
        }
        stamps.put(Conventions.STANDARD.column(AuditColumn.UPDATED_AT), at);
        stamps.put(Conventions.STANDARD.column(AuditColumn.UPDATED_BY), by);
        return stamps;
    }

    private String stamped(List<String> names, String alias, boolean inserted) {
        return dialect.list(names, name -> dialect.column(alias, name))
                + stamps(inserted).entrySet().stream()
                        .map(stamp -> ", " + stamp.getValue() + " as " + dialect.quote(stamp.getKey()))
                        .collect(Collectors.joining());
    }

    private void make(KeptTable table, List<Column> columns) {
        List<String> names = columns.stream().map(Column::name).toList();
        table.refuseForeign();
        table.made("select " + stamped(names, "zk_k", true) + " from " + LATEST + " as zk_k where not zk_k.zk_deletes")
                .forEach(warehouse::execute);
    }

    /** Gives what is kept the types that the input lists now. */
    private void fit(Input input, KeptTable table, List<Column> standing, List<Column> columns) {
        for (Column wanted : columns) {
            standing.stream()
                    .filter(found -> found.name().equalsIgnoreCase(wanted.name()))
                    .filter(found -> !found.type().equals(dialect.stored(wanted.type())))
                    .map(found -> new Retyped(KeptTable.shown(input), table.quoted(), found, wanted))
                    .forEach(column -> warehouse.execute(Aligning.retyped(column, warehouse)));
        }
    }

    /** Whether a row under an alias is no older than the kept one, t. */
    private String isLater(Keep keep, String alias) {
        return keep.order()
                .map(column -> " and (" + dialect.column("t", column.text()) + " is null or "
                        + dialect.column(alias, column.text()) + " >= " + dialect.column("t", column.text()) + ")")
                .orElse("");
    }

    /** A row counts that is no older than the one that took its key away; one without an order is older than any that has one. */
    private String newer(Keep keep, KeptTable away) {
        return keep.order()
                .map(order -> " and not exists (select 1 from " + away.quoted() + " as t where "
                        + dialect.allEqual(keys(keep), "k", "t") + " and not coalesce(true" + isLater(keep, "k")
                        + ", false))")
                .orElse("");
    }

    private static List<String> keys(Keep keep) {
        return keep.by().stream().map(Word::text).toList();
    }

    /** What was taken away is remembered by its key and order; what came back is not away any more. */
    private void rememberAway(Input input, KeptTable table, boolean isNew) {
        Keep keep = input.keep().orElseThrow();
        KeptTable away = table.away();
        List<String> names = new ArrayList<>(keys(keep));
        keep.order().map(Word::text).filter(order -> !names.contains(order)).ifPresent(names::add);
        String rows = "select " + stamped(names, "zk_k", true) + " from " + LATEST
                + " as zk_k where zk_k.zk_deletes and not exists (select 1 from " + table.quoted() + " as t where "
                + dialect.allEqual(keys(keep), "zk_k", "t") + ")";
        if (isNew) {
            away.refuseForeign();
            away.made(rows).forEach(warehouse::execute);
            return;
        }
        List<String> inserted = new ArrayList<>(names);
        inserted.addAll(stamps(true).keySet());
        publish(
                images(input, away),
                List.of(
                        new TableChange.Remove(
                                Step.caption("keys that were away", "A later row says something else of them."),
                                away.quoted(),
                                new Matching(LATEST, dialect.allEqual(keys(keep), "c", "t"))),
                        new TableChange.Insert(
                                Step.caption("keys taken away", "Older rows do not bring them back."),
                                away.quoted(),
                                inserted,
                                rows)));
    }

    /** What the rows of a table are before this load writes over them, for an undo. */
    private BeforeImages images(Input input, KeptTable table) {
        return new BeforeImages(
                new ImageTable(warehouse, input, table),
                context.stamp().load(),
                context.request().rehearsal()
                        ? KeptImages.NONE
                        : context.project().settings().images());
    }

    private void publish(BeforeImages images, List<TableChange> changes) {
        for (TableChange change : changes) {
            images.before(change);
            warehouse.publish(List.of(change), List.of());
        }
    }

    private void noteImages(Input input, KeptTable table, Known known) {
        if (!context.request().rehearsal()) {
            BeforeImages images = images(input, table);
            images.note(known.imagesSince(images.of()));
        }
    }

    /**
     * The rows to write over those that stand. Where only some columns are compared, of a row that equals the kept one in them no more
     * is written than its order: what came between the two is older than what was said last.
     */
    private String changed(Keep keep, KeptTable table, List<String> names) {
        List<String> compared = keep.compare().isEmpty()
                ? names
                : keep.compare().stream().map(Word::text).toList();
        String differs = dialect.anyDiffers(compared, "k", "t");
        Optional<String> order =
                keep.order().map(Word::text).filter(column -> compared.stream().noneMatch(column::equalsIgnoreCase));
        return Sql.of("""
                select ${columns}
                from ${latest} as k
                join ${kept} as t on ${same_key}
                where not k.zk_deletes${is_later} and (${differs}${or_order})""")
                .with(
                        "columns",
                        order.map(column -> restated(names, column, differs))
                                .orElseGet(() -> stamped(names, "k", false)))
                .with("latest", LATEST)
                .with("kept", table.quoted())
                .with("same_key", dialect.allEqual(keys(keep), "k", "t"))
                .with("is_later", isLater(keep, "k"))
                .with("differs", differs)
                .with(
                        "or_order",
                        order.map(column -> " or " + dialect.anyDiffers(List.of(column), "k", "t"))
                                .orElse(""))
                .text();
    }

    /** A row as it will be: the delivered one where it differs in what is compared, else the kept one with the order of the other. */
    private String restated(List<String> names, String order, String differs) {
        List<String> values = new ArrayList<>();
        for (String name : names) {
            String delivered = dialect.column("k", name);
            values.add((name.equalsIgnoreCase(order)
                            ? delivered
                            : dialect.either(differs, delivered, dialect.column("t", name)))
                    + " as " + dialect.quote(name));
        }
        stamps(false)
                .forEach((name, value) -> values.add(
                        dialect.either(differs, value, dialect.column("t", name)) + " as " + dialect.quote(name)));
        return String.join(",\n  ", values);
    }

    private void change(Input input, KeptTable table, List<Column> standing, List<Column> columns) {
        Keep keep = input.keep().orElseThrow();
        List<String> names = columns.stream().map(Column::name).toList();
        columns.stream()
                .filter(column -> typeOf(standing, column.name()).isEmpty())
                .forEach(column -> warehouse.execute(dialect.addColumn(table.quoted(), column)));
        List<String> by = keep.by().stream().map(Word::text).toList();
        warehouse.keep(CHANGED.name(), changed(keep, table, names));
        List<String> written = new ArrayList<>(names);
        written.addAll(stamps(false).keySet());
        List<String> inserted = new ArrayList<>(names);
        inserted.addAll(stamps(true).keySet());
        publish(
                images(input, table),
                List.of(
                        new TableChange.Remove(
                                Step.caption("kept rows taken away", "A row that says so takes the kept one away."),
                                table.quoted(),
                                new Matching(
                                        LATEST,
                                        dialect.allEqual(by, "c", "t") + " and c.zk_deletes" + isLater(keep, "c"))),
                        new TableChange.Rewrite(
                                Step.caption("kept rows anew", "Later rows are written over those that differ."),
                                table.quoted(),
                                new Matching(CHANGED, dialect.allEqual(by, "c", "t")),
                                TableChange.same(dialect, written)),
                        new TableChange.Insert(
                                Step.caption("kept rows added", "Rows of keys that are not kept yet."),
                                table.quoted(),
                                inserted,
                                "select " + stamped(names, "zk_k", true) + " from " + LATEST
                                        + " as zk_k where not zk_k.zk_deletes and not exists (select 1 from "
                                        + table.quoted()
                                        + " as t where " + dialect.allEqual(by, "zk_k", "t") + ")")));
        warehouse.dropScratch(CHANGED.name());
    }
}
