package dev.zeitkammer.fact;

import dev.zeitkammer.definition.FactDeletions;
import dev.zeitkammer.definition.Input;
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
import dev.zeitkammer.step.DeliveryQuery;
import dev.zeitkammer.step.DeliveryRows;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Marks;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** The rows that are delivered to a fact or to a feed of it: what both read of the staged rows in the same way. */
final class FactDelivery {

    private final LookupSource source;
    private final StagedRows staged;
    private final Expressions expressions;
    private final Dialect dialect;
    private final DeliveryQuery query;
    private final Optional<Word> when;
    private final Optional<String> deletes;

    /** @param deletions which rows take facts away; there, nothing but the grain is read */
    FactDelivery(Warehouse warehouse, LookupSource source, StagedRows staged, Optional<FactDeletions> deletions) {
        this.source = source;
        this.staged = staged;
        this.expressions = new Expressions(warehouse);
        this.dialect = warehouse.dialect();
        this.query = new DeliveryQuery(warehouse, staged, expressions);
        this.when = deletions.map(FactDeletions::when);
        when.ifPresent(condition -> expressions.condition(condition, "\"when\""));
        this.deletes = when.map(condition -> query.condition(condition, "when"));
    }

    /** Whether a row takes a fact away, in a column. */
    void deletes(String as) {
        query.raw(deletes.orElse("false"), as);
    }

    /** The type of what a column is taken from. */
    SqlType type(Word value) {
        return query.type(value);
    }

    /** A column that identifies a fact; an empty text is none where the fact itself comes with it. */
    void identifying(Word value, Column as, boolean comesWithIt) {
        query.taken(value, as, comesWithIt, Optional.empty());
    }

    /** A further column. */
    void column(Word value, Column as) {
        query.taken(value, as, false, deletes);
    }

    /** A measure: a column of its name, or what is computed. */
    void measure(Measure measure) {
        if (measure.take().isEmpty()) {
            column(measure.name(), new Column(measure.name().text(), measure.type()));
            return;
        }
        Word take = measure.take().get();
        String name = measure.name().text();
        SqlType plain = expressions.type(take, "\"take\" of \"" + name + "\"");
        query.computed(take, name, Optional.of(measure.type()).filter(type -> !type.equals(plain)), when);
    }

    /** A column that is not known yet. */
    void unknown(Column column) {
        query.raw(dialect.cast("null", column.type()), column.name());
    }

    /** Lookups with the columns and dates that they go by. */
    List<LookupSql> lookups(List<Lookup> definitions) {
        source.look(definitions);
        List<LookupSql> lookups = new ArrayList<>();
        definitions.forEach(lookup -> lookups.add(source.ofFact(lookups.size(), lookup, staged)));
        return lookups;
    }

    /** @param isGrain whether the lookup identifies the fact, so that rows that take facts away have it too */
    void match(LookupSql lookup, boolean isGrain) {
        source.addMatch(query, lookup, staged, isGrain ? Optional.empty() : deletes);
        source.addAsOf(query, lookup, staged, deletes);
    }

    /**
     * The rows beyond the mark of the input that meet its condition.
     *
     * @throws dev.zeitkammer.definition.DefinitionException where an expression cannot be evaluated
     */
    DeliveryRows rows(Input input, Marks marks) {
        input.where().ifPresent(where -> expressions.condition(where, "\"where\""));
        expressions.throwIfAny();
        query.assertRows(input.assertions());
        marks.restrict(input, query, staged, dialect);
        return query.rows(input.where());
    }
}
