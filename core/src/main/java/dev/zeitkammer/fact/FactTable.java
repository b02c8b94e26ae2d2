package dev.zeitkammer.fact;

import dev.zeitkammer.align.TableShape;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.StoredFlag;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.KeyHash;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * A fact's table.
 *
 * @param grain the columns that identify a row; empty: rows are appended
 * @param degenerate the further staged columns
 */
record FactTable(Fact definition, List<Column> grain, List<Column> degenerate) {

    FactTable {
        grain = List.copyOf(grain);
        degenerate = List.copyOf(degenerate);
    }

    List<String> grainNames() {
        return grain.stream().map(Column::name).toList();
    }

    /** The columns of the grain that are staged, rather than keys that lookups find. */
    List<Column> stagedGrain() {
        return IntStream.range(0, grain.size())
                .filter(position -> definition
                        .lookup(definition.grain().get(position).text())
                        .isEmpty())
                .mapToObj(grain::get)
                .toList();
    }

    List<String> stagedGrainNames() {
        return stagedGrain().stream().map(Column::name).toList();
    }

    /** What a column of the grain, or a degenerate, is taken from. */
    Word taken(Column column) {
        return definition.taken().of(new Word(column.name(), definition.name().place()));
    }

    boolean isAppended() {
        return grain.isEmpty();
    }

    static String keyName(Lookup lookup) {
        return lookup.keyColumn();
    }

    /** The columns that a lookup writes: the key, and that of the member where it is stored too. */
    static Stream<String> keyNames(Lookup lookup) {
        return Stream.concat(Stream.of(keyName(lookup)), lookup.memberColumn().stream());
    }

    /** The columns that can differ between a staged row and the fact of its grain, and are written over it. */
    List<String> comparedNames() {
        return Stream.of(
                        definition.lookups().stream()
                                .filter(lookup -> !definition.isGrain(lookup)
                                        && !definition.isFed(lookup.role().text()))
                                .flatMap(FactTable::keyNames),
                        degenerate.stream().map(Column::name).filter(name -> !definition.isFed(name)),
                        definition.measures().stream()
                                .filter(measure ->
                                        !definition.isFed(measure.name().text()))
                                .map(measure -> measure.name().text()))
                .flatMap(names -> names)
                .toList();
    }

    /** How it is stored that a fact was cancelled. */
    StoredFlag deletedFlag() {
        return definition.conventions().flag(AuditColumn.IS_DELETED);
    }

    String stamp(AuditColumn housekeeping) {
        return definition.conventions().column(housekeeping);
    }

    /** All columns in order of the table. */
    List<Column> columns() {
        List<Column> columns = new ArrayList<>(grain);
        definition.lookups().stream()
                .filter(lookup -> !definition.isGrain(lookup))
                .map(FactTable::keyName)
                .forEach(name -> columns.add(new Column(name, SqlType.BIGINT)));
        definition.lookups().stream()
                .flatMap(lookup -> lookup.memberColumn().stream())
                .forEach(name -> columns.add(new Column(name, SqlType.BIGINT)));
        columns.addAll(degenerate);
        for (Measure measure : definition.measures()) {
            columns.add(new Column(measure.name().text(), measure.type()));
        }
        if (definition.marksDeleted()) {
            columns.add(new Column(stamp(AuditColumn.IS_DELETED), deletedFlag().type()));
        }
        columns.add(new Column(stamp(AuditColumn.INSERTED_AT), SqlType.TIMESTAMP));
        columns.add(new Column(stamp(AuditColumn.UPDATED_AT), SqlType.TIMESTAMP));
        columns.add(new Column(stamp(AuditColumn.INSERTED_BY), SqlType.BIGINT));
        columns.add(new Column(stamp(AuditColumn.UPDATED_BY), SqlType.BIGINT));
        return columns;
    }

    TableShape shape(Warehouse warehouse, Stamp stamp) {
        List<String> identity = new ArrayList<>(grainNames());
        boolean standing = definition.conventions().standing();
        if (!standing) {
            identity.add(stamp(AuditColumn.INSERTED_BY));
        }
        return TableShape.plain(definition.table(), keeping(warehouse.columns(definition.table())), identity)
                .described(definition.described())
                .laidOut(definition.layout())
                .filling(valuesOfRowsThatAreThere(warehouse.dialect(), stamp))
                .standing(standing)
                .indexedBy(grain.isEmpty() || isHeld(warehouse) ? List.of() : List.of(grainNames()));
    }

    /** Whether the database holds the grain, by an index of its own. */
    private boolean isHeld(Warehouse warehouse) {
        return definition.isEnforced() && warehouse.dialect().keepsConstraints();
    }

    /** The columns in the types in which keys and stamps stand, where another whole number does as well. */
    private List<Column> keeping(List<Column> existing) {
        Map<String, SqlType> types = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        existing.forEach(column -> types.put(column.name(), column.type()));
        Set<String> delivered = new HashSet<>();
        stagedGrain().forEach(column -> delivered.add(column.name()));
        degenerate.forEach(column -> delivered.add(column.name()));
        definition.measures().forEach(measure -> delivered.add(measure.name().text()));
        return columns().stream()
                .map(column -> {
                    SqlType stands = types.getOrDefault(column.name(), column.type());
                    return stands.isLike(column.type()) && !delivered.contains(column.name())
                            ? new Column(column.name(), stands)
                            : column;
                })
                .toList();
    }

    /**
     * A lookup that is added to a fact with rows: they have no value for it, and get the key that stands for that. Rows that
     * others made get the stamp of no load.
     */
    private Map<String, String> valuesOfRowsThatAreThere(Dialect dialect, Stamp stamp) {
        Map<String, String> keys = new HashMap<>();
        if (definition.conventions().standing()) {
            keys.put(stamp(AuditColumn.INSERTED_AT), dialect.timestamp(stamp.at()));
            keys.put(stamp(AuditColumn.UPDATED_AT), dialect.timestamp(stamp.at()));
            keys.put(stamp(AuditColumn.INSERTED_BY), "0");
            keys.put(stamp(AuditColumn.UPDATED_BY), "0");
        }
        if (definition.marksDeleted()) {
            keys.put(stamp(AuditColumn.IS_DELETED), deletedFlag().stored(dialect, "false"));
        }
        for (Lookup lookup : definition.lookups()) {
            keyNames(lookup)
                    .forEach(name ->
                            keys.put(name, String.valueOf(lookup.standIns().blank())));
        }
        return keys;
    }

    /** The grain of a row under an alias as one text, the same for a staged row and for the fact that it becomes. */
    String grainText(Dialect dialect, String alias) {
        return KeyHash.text(
                dialect,
                grain.stream()
                        .map(column -> dialect.cast(dialect.column(alias, column.name()), column.type()))
                        .toList());
    }
}
