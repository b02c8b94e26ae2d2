package dev.zeitkammer.fact;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.align.Constraining;
import dev.zeitkammer.align.Constraint;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.FactDeletions;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.DeliveryRows;
import dev.zeitkammer.step.Marks;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import dev.zeitkammer.step.TableLoad;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/** Loads staged rows into a fact table; the dimensions that it looks up must stand already. */
public final class FactLoad implements TableLoad {

    /** From so many bytes on a question is better asked of a whole dimension than of what rows look for. */
    private static final long LARGE = 16L << 20;

    static final List<String> COUNTED = List.of(
            "staged",
            "new",
            "updated",
            "unchanged",
            "ignored",
            "repeated",
            "setAside",
            "waiting",
            "removed",
            "healed",
            "followed");

    private final Fact definition;
    private final Warehouse warehouse;
    private final FactBooks books;
    private final List<Column> existing;
    private final LookupSource source;

    public FactLoad(Fact definition, Warehouse warehouse, FactBooks books) {
        this.definition = definition;
        this.warehouse = warehouse;
        this.books = books;
        this.existing = warehouse.columns(definition.table());
        this.source = new LookupSource(warehouse);
    }

    @Override
    public Definition definition() {
        return definition;
    }

    @Override
    public String kind() {
        return "fact";
    }

    @Override
    public boolean followsLoadDate() {
        return false;
    }

    @Override
    public List<TableLoad> feeds() {
        return definition.feeds().stream()
                .<TableLoad>map(feed -> new FeedLoad(definition, feed, warehouse, books))
                .toList();
    }

    @Override
    public Optional<Plan> upkeep(Stamp stamp) {
        FactTable table = standing(definition, warehouse);
        return new LateArrivingMembers(new FactLoading(table, warehouse, stamp, books), source).plan();
    }

    /** The fact's table as it stands. */
    static FactTable standing(Fact definition, Warehouse warehouse) {
        List<Column> columns = warehouse.columns(definition.table());
        return new FactTable(
                definition,
                definition.grain().stream()
                        .map(word -> column(columns, definition.grainColumn(word)))
                        .toList(),
                definition.degenerate().stream()
                        .map(word -> column(columns, word.text()))
                        .toList());
    }

    private static Column column(List<Column> columns, String name) {
        return new Column(name, typeOf(columns, name).orElse(SqlType.VARCHAR));
    }

    @Override
    public void want(Wanted wanted) {
        definition.grain().stream()
                .filter(word -> definition.lookup(word.text()).isEmpty())
                .forEach(column -> wanted.taken(definition.taken().of(column), "grain", standing(column)));
        for (Word column : definition.degenerate()) {
            Word value = definition.taken().of(column);
            if (!definition.isFed(column.text()) || wanted.isStaged(value)) {
                wanted.taken(value, "degenerate", standing(column));
            }
        }
        for (Lookup lookup : definition.lookups()) {
            if (!isLeftToFeeds(lookup, wanted)) {
                source.want(lookup, wanted);
            }
        }
        for (Measure measure : definition.measures()) {
            if (measure.take().isPresent()) {
                measure.take()
                        .filter(take -> !definition.isFed(measure.name().text()))
                        .ifPresent(wanted::expression);
            } else if (!definition.isFed(measure.name().text()) || wanted.isStaged(measure.name())) {
                wanted.column(measure.name(), "measure", Optional.of(measure.type()));
            }
        }
        definition.deletions().map(FactDeletions::when).ifPresent(wanted::expression);
        Marks.want(definition.source(), wanted);
        definition.source().where().ifPresent(wanted::expression);
    }

    /** What a feed writes need not be staged here; a fact then begins without it. */
    private boolean isLeftToFeeds(Lookup lookup, Wanted wanted) {
        return definition.isFed(lookup.role().text())
                && !Stream.concat(lookup.match().stream(), lookup.asOf().stream())
                        .allMatch(wanted::isStaged);
    }

    /** The type of a column that stands, under this name or the one that it had before. */
    private Optional<SqlType> standing(Word column) {
        return typeOf(existing, column.text())
                .or(() -> definition.formerName(column.text()).flatMap(was -> typeOf(existing, was)));
    }

    /** The type of a column among some. */
    static Optional<SqlType> typeOf(List<Column> columns, String name) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(name))
                .map(Column::type)
                .findFirst();
    }

    @Override
    public Prepared prepare(Optional<StagedRows> delivered, Stamp stamp) {
        StagedRows staged = delivered.orElseThrow();
        FactDelivery rows = new FactDelivery(warehouse, source, staged, definition.deletions());
        List<LookupSql> lookups = rows.lookups(definition.lookups());
        FactTable table =
                new FactTable(definition, grain(rows, staged), columns(definition.degenerate(), rows, staged));
        DeliveryRows delivery = delivery(rows, staged, table, lookups);
        FactPlan steps = new FactPlan(new FactLoading(table, warehouse, stamp, books), lookups, size(staged));
        return new Prepared(
                alignment(table, stamp),
                isAdopted() ? List.of(oneGrain(table)) : List.of(),
                List.of(),
                List.of(steps.plan(delivery, staged.areComplete())));
    }

    /** What makes the table fit; a lookup that is added finds its members by natural keys that the facts store. */
    private Alignment alignment(FactTable table, Stamp stamp) {
        Alignment alignment = Aligning.of(table.shape(warehouse, stamp), warehouse);
        return definition.isEnforced() ? constrained(found(alignment, table), table) : found(alignment, table);
    }

    /** The database is to hold the keys, and the grain. */
    private Alignment constrained(Alignment alignment, FactTable table) {
        Alignment constrained = alignment;
        List<Constraint> constraints = new ArrayList<>();
        if (!table.isAppended()) {
            constraints.add(Constraint.unique(table.grainNames()));
            table.grainNames().forEach(column -> constraints.add(Constraint.notNull(column)));
        }
        Set<String> pointedAt = new HashSet<>();
        for (Lookup lookup : definition.lookups()) {
            Dimension dimension = lookup.dimension();
            constraints.add(Constraint.notNull(lookup.keyColumn()));
            if (dimension.isOthers()) {
                continue;
            }
            if (pointedAt.add(dimension.table())) {
                constrained = constrained.then(Constraining.of(
                        dimension.table(), List.of(Constraint.primaryKey(dimension.keyColumn())), warehouse));
            }
            constraints.add(Constraint.foreignKey(lookup.keyColumn(), dimension.table(), dimension.keyColumn()));
        }
        return constrained.then(Constraining.of(definition.table(), constraints, warehouse));
    }

    private Alignment found(Alignment aligned, FactTable table) {
        Alignment alignment = aligned;
        DatedLookups stored = new DatedLookups(table, warehouse, source);
        for (Lookup lookup : definition.lookups()) {
            if (!table.isAppended() && alignment.added().contains(FactTable.keyName(lookup))) {
                Optional<String> finding = stored.finding(lookup);
                alignment = finding.isPresent() ? alignment.then(finding.get()) : alignment;
            }
            if (lookup.memberColumn().filter(alignment.added()::contains).isPresent()) {
                alignment = alignment.then(memberKeys(lookup));
            }
        }
        return alignment;
    }

    /** The facts that are there get the keys of the members that their keys are of. */
    private String memberKeys(Lookup lookup) {
        Dialect dialect = warehouse.dialect();
        Dimension dimension = lookup.dimension();
        String members = Sql.of("(select ${key} as zk_key, ${member_key} as zk_member from ${dimension})")
                .with("key", dialect.quote(dimension.keyColumn()))
                .with("member_key", dialect.quote(dimension.memberKeyColumn()))
                .with("dimension", warehouse.table(dimension.table()))
                .text();
        return dialect.rewrite(
                warehouse.table(definition.table()),
                members,
                dialect.column("t", FactTable.keyName(lookup)) + " = c.zk_key",
                Map.of(lookup.memberColumn().orElseThrow(), "c.zk_member"));
    }

    /** Whether others made the table, and this is the first time that it is gone on with. */
    private boolean isAdopted() {
        return definition.conventions().standing() && !existing.isEmpty() && !books.isLoaded();
    }

    /** The grain of facts that others made identifies them, or no load could go on with them. */
    private Step.Guard oneGrain(FactTable table) {
        Dialect dialect = warehouse.dialect();
        String sql = Sql.of("""
                select min(zk_grain), count(*)
                from (select ${grain_text} as zk_grain from ${target} as f group by ${grain} having count(*) > 1) as twice
                having count(*) > 0""")
                .with("grain_text", table.grainText(dialect, "f"))
                .with("target", warehouse.table(definition.table()))
                .with("grain", dialect.list(table.grainNames(), name -> dialect.column("f", name)))
                .text();
        return new Step.Guard(
                Step.caption("one row a grain", "The grain of facts that others made identifies each of them."),
                table.isAppended() ? "select 0, 0 where false" : sql,
                row -> Counted.of(row.number(2), "value") + " of the grain ("
                        + String.join(", ", table.grainNames())
                        + ") " + (row.number(2) == 1 ? "stands" : "stand") + " twice or more in " + definition.table()
                        + "; a load could not tell those rows apart. See: zeitkammer verify " + definition.name()
                        + "; choose another grain, or mend the table");
    }

    private FactPlan.Size size(StagedRows staged) {
        long bytes = staged.delivery().bytes();
        return new FactPlan.Size(bytes >= LARGE, bytes < Long.MAX_VALUE && !warehouse.keepsCheaply(bytes) && isEmpty());
    }

    private boolean isEmpty() {
        return existing.isEmpty()
                || warehouse.number("select count(*) from (select 1 from " + warehouse.table(definition.table())
                                + " limit 1) as any_row")
                        == 0;
    }

    private List<Column> grain(FactDelivery rows, StagedRows staged) {
        List<Column> grain = new ArrayList<>();
        for (Word word : definition.grain()) {
            if (definition.lookup(word.text()).isPresent()) {
                grain.add(new Column(definition.grainColumn(word), SqlType.BIGINT));
            } else {
                grain.addAll(columns(List.of(word), rows, staged));
            }
        }
        return grain;
    }

    private List<Column> columns(List<Word> words, FactDelivery rows, StagedRows staged) {
        return words.stream()
                .map(word -> new Column(word.text(), type(word, rows, staged)))
                .toList();
    }

    /** The type of a column; of one that is left to a feed, that of the table, or text. */
    private SqlType type(Word column, FactDelivery rows, StagedRows staged) {
        Word value = definition.taken().of(column);
        boolean isLeft = definition.isFed(column.text()) && !isDelivered(value, staged);
        return isLeft
                ? standing(column).orElse(SqlType.VARCHAR)
                : Alignment.widened(
                        standing(column),
                        rows.type(value),
                        definition.conventions().standing());
    }

    private DeliveryRows delivery(FactDelivery rows, StagedRows staged, FactTable table, List<LookupSql> lookups) {
        rows.deletes("zk_deletes");
        for (Column column : table.stagedGrain()) {
            rows.identifying(table.taken(column), column, true);
        }
        for (Column column : table.degenerate()) {
            if (table.definition().isFed(column.name()) && !isDelivered(table.taken(column), staged)) {
                rows.unknown(column);
            } else {
                rows.column(table.taken(column), column);
            }
        }
        for (Measure measure : definition.measures()) {
            if (measure.take().isPresent()
                    ? definition.isFed(measure.name().text())
                    : !isDelivered(measure.name(), staged)) {
                rows.unknown(new Column(measure.name().text(), measure.type()));
            } else {
                rows.measure(measure);
            }
        }
        lookups.forEach(lookup -> rows.match(lookup, definition.isGrain(lookup.lookup())));
        return rows.rows(definition.source(), books.marks());
    }

    private static boolean isDelivered(Word column, StagedRows staged) {
        return staged.delivery().column(column.text()).isPresent();
    }
}
