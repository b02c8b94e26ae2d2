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
import dev.zeitkammer.lookup.KeyHash;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
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

    /** The columns that can differ between a staged row and the fact of its grain, and are written over it. */
    List<String> comparedNames() {
        return Stream.of(
                        definition.lookups().stream()
                                .filter(lookup -> !definition.isGrain(lookup)
                                        && !definition.isFed(lookup.role().text()))
                                .map(FactTable::keyName),
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
                .forEach(lookup -> columns.add(new Column(keyName(lookup), SqlType.BIGINT)));
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

    TableShape shape() {
        List<String> identity = new ArrayList<>(grainNames());
        identity.add(stamp(AuditColumn.INSERTED_BY));
        return TableShape.plain(definition.table(), columns(), identity)
                .described(definition.described())
                .laidOut(definition.layout())
                .filling(keysOfRowsThatAreThere())
                .indexedBy(grain.isEmpty() ? List.of() : List.of(grainNames()));
    }

    /** A lookup that is added to a fact with rows: they have no value for it, and get the key that stands for that. */
    private Map<String, String> keysOfRowsThatAreThere() {
        Map<String, String> keys = new HashMap<>();
        for (Lookup lookup : definition.lookups()) {
            keys.put(keyName(lookup), String.valueOf(lookup.standIns().blank()));
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
