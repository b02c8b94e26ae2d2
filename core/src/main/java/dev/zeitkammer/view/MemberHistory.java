package dev.zeitkammer.view;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Result;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The versions of one member, in order.
 *
 * @param columns the columns of the dimension
 * @param versions the values of each version, in order of the columns
 * @param changed for each version, the columns whose values differ from the version before
 */
public record MemberHistory(
        Dimension dimension, List<Column> columns, List<List<@Nullable Object>> versions, List<Set<String>> changed) {

    /**
     * Reads a member's versions.
     *
     * @param key the business key, as texts in its order
     * @param knownAt the load after which it was known; empty: now
     * @throws UsageException when the number of values is not that of the key, or there is no such member
     */
    public static MemberHistory read(
            Warehouse warehouse, Dimension dimension, List<String> key, Optional<Long> knownAt) {
        List<String> names = dimension.key().stream().map(Word::text).toList();
        if (names.size() != key.size()) {
            throw new UsageException("The business key of " + dimension.table() + " is (" + String.join(", ", names)
                    + "); found " + key.size() + " values, expected " + names.size());
        }
        List<Column> columns = TableView.standing(warehouse, dimension);
        Dialect dialect = warehouse.dialect();
        List<String> conditions = new ArrayList<>();
        for (int index = 0; index < names.size(); index++) {
            conditions.add(dialect.asText(dialect.quote(names.get(index))) + " = " + dialect.text(key.get(index)));
        }
        String order = dimension.hasHistory()
                ? " order by " + dialect.quote(dimension.conventions().column(AuditColumn.VALID_FROM))
                : "";
        Result result = warehouse.result("select * from "
                + TableView.rows(warehouse, dimension, knownAt) + " as t where "
                + String.join(" and ", conditions) + order);
        if (result.rows().isEmpty()) {
            throw new UsageException("There is no member " + String.join(", ", key) + " in " + dimension.table()
                    + "; see: zeitkammer show " + dimension.name());
        }
        return new MemberHistory(
                dimension, columns, result.rows(), changes(columns, result.rows(), dimension.conventions()));
    }

    private static List<Set<String>> changes(
            List<Column> columns, List<List<@Nullable Object>> versions, Conventions conventions) {
        Set<String> housekeeping =
                Set.of(AuditColumn.values()).stream().map(conventions::column).collect(Collectors.toSet());
        List<Set<String>> changed = new ArrayList<>();
        for (int version = 0; version < versions.size(); version++) {
            Set<String> here = new HashSet<>();
            for (int column = 1; version > 0 && column < columns.size(); column++) {
                boolean differs = !Objects.equals(
                        versions.get(version - 1).get(column),
                        versions.get(version).get(column));
                if (differs && !housekeeping.contains(columns.get(column).name())) {
                    here.add(columns.get(column).name());
                }
            }
            changed.add(Set.copyOf(here));
        }
        return changed;
    }
}
