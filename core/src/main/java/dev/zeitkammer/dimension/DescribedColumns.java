package dev.zeitkammer.dimension;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.Attribute.Missing;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;

/**
 * What a dimension's columns are: by its definition, by what is delivered, and by the table as it stands. A column that stands
 * keeps its type, or becomes wider.
 */
final class DescribedColumns {

    private final Dimension definition;
    private final Conventions conventions;
    private final List<Column> existing;
    private final Map<String, SqlType> existingTypes = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
    private final Set<String> named = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);

    /** @param existing the columns of the table as it stands; none where it does not */
    DescribedColumns(Dimension definition, List<Column> existing) {
        this.definition = definition;
        this.conventions = definition.conventions();
        this.existing = List.copyOf(existing);
        existing.forEach(column -> existingTypes.putIfAbsent(column.name(), column.type()));
        this.named.addAll(named());
    }

    /** The type of a column that stands. */
    Optional<SqlType> existing(String column) {
        return Optional.ofNullable(existingTypes.get(column));
    }

    Optional<SqlType> existing(Attribute attribute) {
        return existing(attribute.name().text()).or(() -> attribute.was().flatMap(was -> existing(was.text())));
    }

    /** Whether a staged column is left to {@code all-others}. */
    boolean isOther(String column) {
        return !named.contains(column);
    }

    /** The staged columns that the definition names; the others may be loaded by {@code all-others}. */
    private List<String> named() {
        Stream<Word> attributes = definition.attributes().stream()
                .flatMap(attribute -> Stream.concat(Stream.of(attribute.name()), attribute.previous().stream()));
        Stream<Word> matches = definition.lookups().stream().flatMap(lookup -> lookup.lookup().match().stream());
        Stream<Word> single = Stream.concat(definition.history().effective().stream(), definition.lastBy().stream());
        return Stream.of(definition.key().stream(), definition.keyTaken().stream(), attributes, matches, single)
                .flatMap(words -> words)
                .map(Word::text)
                .toList();
    }

    /** The columns that a delivery fills, in order of the table. */
    List<DimensionColumn> of(StagedRows staged, Expressions expressions, List<LookupSql> lookups) {
        List<DimensionColumn> columns = new ArrayList<>();
        if (definition.kind() == Kind.COMBINATION) {
            definition
                    .attributes()
                    .forEach(attribute ->
                            columns.add(DimensionColumn.key(attribute, attributeType(attribute, staged, expressions))));
            return columns;
        }
        for (Word key : definition.key()) {
            columns.add(key(key, staged, expressions));
        }
        for (Attribute attribute : definition.attributes()) {
            if (keepsItsValue(attribute, staged)) {
                columns.add(notDelivered(attribute.name().text()));
                attribute.previous().ifPresent(name -> columns.add(notDelivered(name.text())));
                continue;
            }
            SqlType type = attributeType(attribute, staged, expressions);
            columns.add(DimensionColumn.of(attribute, type));
            attribute.previous().ifPresent(name -> columns.add(DimensionColumn.previous(name, attribute, type)));
        }
        for (int index = 0; index < lookups.size(); index++) {
            columns.add(DimensionColumn.of(
                    definition.lookups().get(index),
                    lookups.get(index).identity().columns()));
        }
        definition
                .allOthers()
                .ifPresent(change -> others(staged)
                        .forEach(name -> columns.add(
                                staged.type(name).isPresent() ? other(name, change, staged) : notDelivered(name))));
        return columns;
    }

    private boolean keepsItsValue(Attribute attribute, StagedRows staged) {
        return attribute.missing() == Missing.KEEP
                && attribute.take().isEmpty()
                && staged.type(attribute.name().text()).isEmpty()
                && existing(attribute).isPresent()
                && attribute.previous().map(Word::text).flatMap(this::existing).isPresent()
                        == attribute.previous().isPresent();
    }

    private DimensionColumn key(Word key, StagedRows staged, Expressions expressions) {
        Word taken = definition.taken().of(key);
        SqlType delivered = staged.delivery().column(taken.text()).isPresent()
                ? stagedType(staged, taken.text())
                : expressions.type(taken, "\"" + key + "\" of the key");
        SqlType type = Alignment.widened(existingKey(key), delivered, conventions.standing());
        return DimensionColumn.key(key.text(), type, taken);
    }

    /** The type of a column of the key that stands, under this name or the one that it had before. */
    Optional<SqlType> existingKey(Word key) {
        return existing(key.text()).or(() -> definition.formerName(key.text()).flatMap(this::existing));
    }

    /** The columns that only {@code all-others} loads: those of the table in their order, then those that are new. */
    private Set<String> others(StagedRows staged) {
        Set<String> own = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        own.add(definition.keyColumn());
        own.add(definition.memberKeyColumn());
        definition.lookups().forEach(lookup -> own.add(lookup.column()));
        Arrays.stream(AuditColumn.values()).map(conventions::column).forEach(own::add);
        Set<String> others = new LinkedHashSet<>();
        existing.stream()
                .map(Column::name)
                .filter(this::isOther)
                .filter(name -> !own.contains(name))
                .forEach(name -> others.add(staged.delivery().column(name).orElse(name)));
        staged.delivery().header().stream().filter(this::isOther).forEach(others::add);
        return others;
    }

    /** A column that is not delivered this time says nothing: a new version has the value of the one before. */
    private DimensionColumn notDelivered(String name) {
        return DimensionColumn.notDelivered(name, existing(name).orElseThrow());
    }

    private DimensionColumn other(String name, ChangeType change, StagedRows staged) {
        Attribute attribute = Attribute.plain(new Word(name, definition.name().place()), change);
        return DimensionColumn.of(
                attribute, Alignment.widened(existing(name), stagedType(staged, name), conventions.standing()));
    }

    private SqlType attributeType(Attribute attribute, StagedRows staged, Expressions expressions) {
        String name = attribute.name().text();
        SqlType delivered = attribute
                .take()
                .map(take -> expressions.type(take, "\"take\" of \"" + name + "\""))
                .orElseGet(() -> stagedType(staged, name));
        return attribute
                .as()
                .orElseGet(() -> Alignment.widened(existing(attribute), delivered, conventions.standing()));
    }

    private static SqlType stagedType(StagedRows staged, String column) {
        return staged.type(column).orElse(SqlType.VARCHAR);
    }

    /** The type of the moments at which versions begin and end. */
    SqlType momentType(StagedRows staged, Stamp stamp, Expressions expressions) {
        Optional<SqlType> standing =
                existing(conventions.column(AuditColumn.VALID_FROM)).filter(SqlType::isMoment);
        Optional<Word> effective = definition.history().effective();
        if (effective.isEmpty()) {
            return ofLoadDate(standing, stamp, expressions);
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
        return Alignment.widened(standing, type, conventions.standing());
    }

    private SqlType ofLoadDate(Optional<SqlType> standing, Stamp stamp, Expressions expressions) {
        if (stamp.date().isDay()) {
            return standing.orElse(SqlType.DATE);
        }
        if (conventions.inclusive() && definition.hasHistory()) {
            expressions.problem(
                    definition.name(),
                    "\"valid-to: inclusive\" is for dates, and the load date " + stamp.date()
                            + " has a time; use exclusive, or load for a day");
        }
        return SqlType.TIMESTAMP;
    }

    /** Refuses a staged column that has the name of another one. */
    void refuseTakenNames(DimensionTable table) {
        Set<String> seen = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        for (DimensionColumn column : table.columns()) {
            if (seen.contains(column.name())) {
                throw new DefinitionException(
                        definition.name().place(),
                        "the staged column \"" + column.name() + "\" has the name of another column of "
                                + definition.table() + "; rename that one under columns:");
            }
            seen.add(column.name());
        }
    }
}
