package dev.zeitkammer.fact;

import dev.zeitkammer.align.TableShape;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.definition.Measure;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.List;

/**
 * A fact's table.
 *
 * @param grain the columns that identify a row
 * @param degenerate the further staged columns
 */
record FactTable(Fact definition, Conventions conventions, List<Column> grain, List<Column> degenerate) {

    FactTable {
        grain = List.copyOf(grain);
        degenerate = List.copyOf(degenerate);
    }

    List<String> grainNames() {
        return grain.stream().map(Column::name).toList();
    }

    List<String> keyNames() {
        return definition.lookups().stream()
                .map(lookup -> lookup.role() + "_key")
                .toList();
    }

    /** The staged values that are stored beside the grain. */
    List<String> valueNames() {
        List<String> names = new ArrayList<>();
        degenerate.forEach(column -> names.add(column.name()));
        definition.measures().forEach(measure -> names.add(measure.name().text()));
        return names;
    }

    /** What can differ between a staged row and the fact of its grain. */
    List<String> comparedNames() {
        List<String> names = new ArrayList<>(keyNames());
        names.addAll(valueNames());
        return names;
    }

    String stamp(Housekeeping housekeeping) {
        return conventions.column(housekeeping);
    }

    /** All columns in order of the table. */
    List<Column> columns() {
        List<Column> columns = new ArrayList<>(grain);
        keyNames().forEach(name -> columns.add(new Column(name, SqlType.BIGINT)));
        columns.addAll(degenerate);
        for (Measure measure : definition.measures()) {
            columns.add(new Column(measure.name().text(), measure.type()));
        }
        columns.add(new Column(stamp(Housekeeping.INSERTED_AT), SqlType.TIMESTAMP));
        columns.add(new Column(stamp(Housekeeping.UPDATED_AT), SqlType.TIMESTAMP));
        columns.add(new Column(stamp(Housekeeping.INSERTED_BY), SqlType.BIGINT));
        columns.add(new Column(stamp(Housekeeping.UPDATED_BY), SqlType.BIGINT));
        return columns;
    }

    TableShape shape() {
        List<String> identity = new ArrayList<>(grainNames());
        identity.add(stamp(Housekeeping.INSERTED_BY));
        return TableShape.plain(definition.table(), columns(), identity);
    }
}
