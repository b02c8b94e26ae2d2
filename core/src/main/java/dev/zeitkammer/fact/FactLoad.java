package dev.zeitkammer.fact;

import dev.zeitkammer.align.Aligning;
import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSource;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.DeliveryQuery;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Loads staged rows into a fact table; the dimensions that it looks up must stand already. */
public final class FactLoad implements TableLoad {

    private final Fact definition;
    private final Conventions conventions;
    private final Warehouse warehouse;
    private final List<Column> existing;
    private final LookupSource source;

    public FactLoad(Fact definition, Conventions conventions, Warehouse warehouse) {
        this.definition = definition;
        this.conventions = conventions;
        this.warehouse = warehouse;
        this.existing = warehouse.columns(definition.table());
        this.source = new LookupSource(conventions, warehouse);
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
    public void want(Wanted wanted) {
        definition.grain().forEach(column -> wanted.column(column, "grain", typeOf(existing, column.text())));
        definition.degenerate().forEach(column -> wanted.column(column, "degenerate", typeOf(existing, column.text())));
        definition.lookups().forEach(lookup -> source.want(lookup, wanted));
        for (Measure measure : definition.measures()) {
            if (measure.take().isPresent()) {
                wanted.expression(measure.take().get());
            } else {
                wanted.column(measure.name(), "measure", Optional.of(measure.type()));
            }
        }
        definition.source().where().ifPresent(wanted::expression);
    }

    private static Optional<SqlType> typeOf(List<Column> columns, String name) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(name))
                .map(Column::type)
                .findFirst();
    }

    @Override
    public Prepared prepare(Optional<StagedRows> rows, Stamp stamp) {
        StagedRows staged = rows.orElseThrow();
        Expressions expressions = new Expressions(warehouse);
        definition.source().where().ifPresent(where -> expressions.condition(where, "\"where\""));
        List<LookupSql> lookups = lookups(staged);
        String delivery = delivery(staged, lookups, expressions);
        expressions.throwIfAny();
        FactTable table = new FactTable(
                definition, conventions, columns(definition.grain(), staged), columns(definition.degenerate(), staged));
        FactSteps steps = new FactSteps(table, lookups, warehouse, stamp);
        return new Prepared(Aligning.of(table.shape(), warehouse), List.of(), steps.plan(delivery));
    }

    private List<Column> columns(List<Word> words, StagedRows staged) {
        return words.stream()
                .map(word -> new Column(
                        word.text(), Alignment.widened(typeOf(existing, word.text()), stagedType(staged, word))))
                .toList();
    }

    private static SqlType stagedType(StagedRows staged, Word column) {
        return staged.type(column.text()).orElse(SqlType.VARCHAR);
    }

    private List<LookupSql> lookups(StagedRows staged) {
        List<LookupSql> lookups = new ArrayList<>();
        for (Lookup lookup : definition.lookups()) {
            lookups.add(source.ofFact(lookups.size(), lookup, staged));
        }
        return lookups;
    }

    private String delivery(StagedRows staged, List<LookupSql> lookups, Expressions expressions) {
        Dialect dialect = warehouse.dialect();
        DeliveryQuery query = new DeliveryQuery(dialect);
        List<Word> stored = new ArrayList<>(definition.grain());
        stored.addAll(definition.degenerate());
        stored.forEach(word -> query.staged(stagedName(staged, word), word.text()));
        for (Measure measure : definition.measures()) {
            String name = measure.name().text();
            if (measure.take().isEmpty()) {
                query.staged(stagedName(staged, measure.name()), name);
            } else {
                SqlType plain = expressions.type(measure.take().get(), "\"take\" of \"" + name + "\"");
                Optional<SqlType> converted = Optional.of(measure.type()).filter(type -> !type.equals(plain));
                query.computed(measure.take().get(), name, converted, Optional.empty());
            }
        }
        for (LookupSql lookup : lookups) {
            source.addMatch(query, lookup, staged, Optional.empty());
            source.addAsOf(query, lookup, staged);
        }
        return query.sql(definition.source().where());
    }

    private static String stagedName(StagedRows staged, Word word) {
        return staged.files().column(word.text()).orElseThrow();
    }
}
