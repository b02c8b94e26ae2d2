package dev.zeitkammer.dimension;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.DeliveryQuery;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.TableLoad;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Loads staged rows into a dimension. */
public final class DimensionLoad implements TableLoad {

    private final Dimension definition;
    private final Conventions conventions;
    private final Warehouse warehouse;
    private final String highestKey;
    private final List<Column> existing;

    /** @param highestKey SQL for the highest surrogate key that the dimension ever gave */
    public DimensionLoad(Dimension definition, Conventions conventions, Warehouse warehouse, String highestKey) {
        this.definition = definition;
        this.conventions = conventions;
        this.warehouse = warehouse;
        this.highestKey = highestKey;
        this.existing = warehouse.columns(definition.table());
    }

    @Override
    public Definition definition() {
        return definition;
    }

    @Override
    public String kind() {
        return "dimension";
    }

    @Override
    public boolean followsLoadDate() {
        return !definition.hasEffective();
    }

    @Override
    public void want(Wanted wanted) {
        definition.key().forEach(key -> wanted.column(key, "business key", existing(key.text())));
        definition.history().effective().ifPresent(effective -> wanted.moment(effective, "effective"));
        for (Attribute attribute : definition.attributes()) {
            if (attribute.take().isPresent()) {
                wanted.expression(attribute.take().get());
            } else {
                wanted.column(
                        attribute.name(),
                        "attribute",
                        attribute.as().or(() -> existing(attribute.name().text())));
            }
        }
        definition.from().flatMap(input -> input.where()).ifPresent(wanted::expression);
        definition.deletions().when().ifPresent(wanted::expression);
        if (definition.allOthers().isPresent()) {
            wanted.all().stream().filter(this::isOther).forEach(name -> wanted.column(name, existing(name)));
        }
    }

    private Optional<SqlType> existing(String column) {
        return existing.stream()
                .filter(known -> known.name().equalsIgnoreCase(column))
                .map(Column::type)
                .findFirst();
    }

    private boolean isOther(String column) {
        return definition.key().stream().map(Word::text).noneMatch(column::equalsIgnoreCase)
                && definition
                        .history()
                        .effective()
                        .map(Word::text)
                        .filter(column::equalsIgnoreCase)
                        .isEmpty()
                && definition.attributes().stream()
                        .map(attribute -> attribute.name().text())
                        .noneMatch(column::equalsIgnoreCase);
    }

    @Override
    public Prepared prepare(Optional<StagedRows> rows, Stamp stamp) {
        StagedRows staged = rows.orElseThrow();
        Expressions expressions = new Expressions(warehouse);
        definition.from().flatMap(input -> input.where()).ifPresent(where -> expressions.condition(where, "\"where\""));
        definition.deletions().when().ifPresent(when -> expressions.condition(when, "\"when\""));
        List<DimensionColumn> described = described(staged, expressions);
        SqlType momentType = momentType(staged, expressions);
        expressions.throwIfAny();
        DimensionTable table = DimensionTable.of(definition, conventions, described, momentType);
        refuseTakenNames(table);
        String delivery = delivery(table, staged, stamp);
        DimensionSteps steps = new DimensionSteps(table, warehouse, newKeys(table), stamp);
        return new Prepared(
                Alignment.of(table.shape(), warehouse),
                List.of(new ReservedMembers(table, warehouse, stamp).step()),
                steps.plan(delivery, staged.badLines().isEmpty()));
    }

    private NewKeys newKeys(DimensionTable table) {
        return switch (definition.surrogate()) {
            case SEQUENCE -> new NewKeys.Sequence(table, warehouse.dialect(), highestKey);
            case HASH -> new NewKeys.Hash(table, warehouse.dialect());
        };
    }

    private List<DimensionColumn> described(StagedRows staged, Expressions expressions) {
        List<DimensionColumn> columns = new ArrayList<>();
        for (Word key : definition.key()) {
            SqlType type = Alignment.widened(existing(key.text()), stagedType(staged, key.text()));
            columns.add(new DimensionColumn(key.text(), type, Role.KEY, Optional.of(key.text()), Optional.empty()));
        }
        for (Attribute attribute : definition.attributes()) {
            columns.add(DimensionColumn.of(attribute, attributeType(attribute, staged, expressions)));
        }
        definition
                .allOthers()
                .ifPresent(change -> staged.files().header().stream()
                        .filter(this::isOther)
                        .map(name -> other(name, change, staged))
                        .forEach(columns::add));
        return columns;
    }

    private DimensionColumn other(String name, ChangeType change, StagedRows staged) {
        Word word = new Word(name, definition.name().place());
        Attribute attribute = new Attribute(word, change, Optional.empty(), Optional.empty());
        return DimensionColumn.of(attribute, Alignment.widened(existing(name), stagedType(staged, name)));
    }

    private SqlType attributeType(Attribute attribute, StagedRows staged, Expressions expressions) {
        String name = attribute.name().text();
        SqlType delivered = attribute
                .take()
                .map(take -> expressions.type(take, "\"take\" of \"" + name + "\""))
                .orElseGet(() -> stagedType(staged, name));
        return attribute.as().orElseGet(() -> Alignment.widened(existing(name), delivered));
    }

    private static SqlType stagedType(StagedRows staged, String column) {
        return staged.type(column).orElse(SqlType.VARCHAR);
    }

    private SqlType momentType(StagedRows staged, Expressions expressions) {
        Optional<SqlType> standing =
                existing(conventions.column(Housekeeping.VALID_FROM)).filter(SqlType::isMoment);
        Optional<Word> effective = definition.history().effective();
        if (effective.isEmpty()) {
            return standing.orElse(SqlType.DATE);
        }
        SqlType type = stagedType(staged, effective.get().text());
        if (!type.isMoment()) {
            expressions.problem(
                    effective.get(),
                    "\"" + effective.get() + "\" is " + type
                            + " in the staged rows; \"effective\" needs a date or a timestamp (list the column under"
                            + " columns: of the input, with its format under csv: if it is not ISO 8601)");
            return SqlType.DATE;
        }
        if (conventions.inclusive() && definition.hasHistory() && type.equals(SqlType.TIMESTAMP)) {
            expressions.problem(
                    effective.get(),
                    "\"" + effective.get()
                            + "\" is a timestamp, and \"valid-to: inclusive\" is for dates; use exclusive");
        }
        return Alignment.widened(standing, type);
    }

    private void refuseTakenNames(DimensionTable table) {
        List<String> seen = new ArrayList<>();
        for (DimensionColumn column : table.columns()) {
            if (seen.stream().anyMatch(column.name()::equalsIgnoreCase)) {
                throw new DefinitionException(
                        definition.name().place(),
                        "the staged column \"" + column.name() + "\" has the name of another column of "
                                + definition.table() + "; rename that one under conventions: columns:");
            }
            seen.add(column.name());
        }
    }

    private static String stagedName(StagedRows staged, DimensionColumn column) {
        return staged.files().column(column.name()).orElseThrow();
    }

    private String delivery(DimensionTable table, StagedRows staged, Stamp stamp) {
        Dialect dialect = warehouse.dialect();
        DeliveryQuery query = new DeliveryQuery(dialect);
        Moments moments = new Moments(table, dialect);
        Optional<Word> effective = definition.history().effective();
        if (effective.isPresent()) {
            String column = dialect.column(
                    "s", staged.files().column(effective.get().text()).orElseThrow());
            query.raw(column, "zk_effective");
            String outside = column + " is null or " + column + " < " + moments.always() + " or " + column + " >= "
                    + conventions.openEnd().map(moments::literal).orElseGet(() -> moments.literal(Moments.LAST));
            query.bad(outside, effective.get().text(), dialect.cast(column, SqlType.VARCHAR));
        } else {
            query.raw(moments.literal(stamp.date()), "zk_effective");
        }
        Optional<String> deletes =
                definition.deletions().when().map(when -> "coalesce(" + Expressions.sql(when) + ", false)");
        query.raw(deletes.orElse("false"), "zk_deletes");
        for (DimensionColumn column : table.loaded()) {
            if (column.take().isPresent()) {
                SqlType plain = new Expressions(warehouse).type(column.take().get(), column.name());
                Optional<SqlType> converted = Optional.of(column.type()).filter(type -> !type.equals(plain));
                query.computed(column.take().get(), column.name(), converted, deletes);
            } else if (column.role() == Role.KEY || deletes.isEmpty()) {
                query.staged(stagedName(staged, column), column.name());
            } else {
                query.stagedUnless(deletes.get(), stagedName(staged, column), column.name());
            }
        }
        return query.sql(definition.from().flatMap(input -> input.where()));
    }
}
