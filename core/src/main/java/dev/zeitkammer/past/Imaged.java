package dev.zeitkammer.past;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.KeptTable;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Supplier;

/**
 * A table whose rows are kept as they were before loads: one of the star, or one in which an input remembers.
 *
 * @param name how the books call it
 * @param target the table in SQL
 * @param columns the names of its columns as it stands
 * @param key the columns that identify a row; none where rows are only ever added
 * @param insertedBy the column that tells which load inserted a row
 * @param updatedBy the column that tells which load wrote it last
 * @param formerName what a column was called before, where its definition says so
 */
record Imaged(
        String name,
        String target,
        Supplier<List<String>> columns,
        List<String> key,
        String insertedBy,
        String updatedBy,
        Function<String, Optional<String>> formerName) {

    static Imaged of(Definition definition, Warehouse warehouse) {
        return new Imaged(
                definition.table(),
                warehouse.table(definition.table()),
                () -> warehouse.columns(definition.table()).stream()
                        .map(Column::name)
                        .toList(),
                definition.rowKey(),
                definition.conventions().column(AuditColumn.INSERTED_BY),
                definition.conventions().column(AuditColumn.UPDATED_BY),
                definition::formerName);
    }

    /** @param table the one of the input's rows, or the one beside it of keys that were taken away */
    static Imaged of(Input input, KeptTable table, Warehouse warehouse) {
        return new Imaged(
                table.shown(),
                table.quoted(),
                () -> warehouse.describe("select * from " + table.quoted()).stream()
                        .map(Column::name)
                        .toList(),
                input.keep().orElseThrow().by().stream().map(Word::text).toList(),
                Conventions.STANDARD.column(AuditColumn.INSERTED_BY),
                Conventions.STANDARD.column(AuditColumn.UPDATED_BY),
                column -> Optional.empty());
    }
}
