package dev.zeitkammer.view;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.Warehouse.Result;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.past.KnownTable;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Shows rows of a table. */
public final class TableView {

    private final Warehouse warehouse;
    private final Dialect dialect;

    public TableView(Warehouse warehouse) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
    }

    /**
     * What to show.
     *
     * @param asOf the moment at which versions must be valid; empty: all versions
     * @param where a condition over the table's columns
     * @param limit the greatest number of rows
     * @param knownAt the load after which it was known; empty: now
     */
    public record Selection(
            Optional<LocalDateTime> asOf, Optional<String> where, Optional<Long> limit, Optional<Long> knownAt) {}

    /**
     * The rows in order of the surrogate key, or of the grain; of a fact without one, in order of its columns.
     *
     * @throws UsageException when the table has no versions and a moment was given
     */
    public Result rows(Definition definition, Selection selection) {
        List<Column> columns = standing(warehouse, definition);
        List<String> conditions = new ArrayList<>();
        selection.asOf().map(moment -> validAt(definition, columns, moment)).ifPresent(conditions::add);
        selection.where().map(sql -> "(" + sql + "\n)").ifPresent(conditions::add);
        String where = conditions.isEmpty() ? "" : " where " + String.join(" and ", conditions);
        String limit = selection.limit().map(rows -> " limit " + rows).orElse("");
        String sql = "select * from " + rows(warehouse, definition, selection.knownAt()) + " as t" + where
                + " order by " + dialect.columns(order(definition, columns)) + limit;
        try {
            return warehouse.result(sql);
        } catch (WarehouseException refused) {
            if (selection.where().isPresent()) {
                throw new UsageException("Cannot apply --where: "
                        + refused.getMessage().lines().findFirst().orElse(""));
            }
            throw refused;
        }
    }

    /** A table, or what it was known to be after a load. */
    static String rows(Warehouse warehouse, Definition definition, Optional<Long> knownAt) {
        return knownAt.map(load -> "(\n" + new KnownTable(warehouse, definition).after(load) + "\n)")
                .orElseGet(() -> warehouse.table(definition.table()));
    }

    /** The columns of a table that must stand in the warehouse. */
    static List<Column> standing(Warehouse warehouse, Definition definition) {
        List<Column> columns = warehouse.columns(definition.table());
        if (columns.isEmpty()) {
            throw new ZeitkammerException("There is no table " + definition.table() + " in " + warehouse.title()
                    + " yet; load it first: zeitkammer load " + definition.name());
        }
        return columns;
    }

    /** Facts without a grain are put in order of all they hold. */
    private static List<String> order(Definition definition, List<Column> columns) {
        if (definition instanceof Dimension dimension) {
            return List.of(dimension.keyColumn());
        }
        Fact fact = (Fact) definition;
        List<String> grain = fact.grain().stream().map(fact::grainColumn).toList();
        return grain.isEmpty() ? columns.stream().map(Column::name).toList() : grain;
    }

    private String validAt(Definition definition, List<Column> columns, LocalDateTime moment) {
        if (!(definition instanceof Dimension dimension) || !dimension.hasHistory()) {
            throw new UsageException("--as-of needs versions, and " + definition.table() + " has none; leave it out");
        }
        String from = dialect.quote(definition.conventions().column(AuditColumn.VALID_FROM));
        String to = dialect.quote(definition.conventions().column(AuditColumn.VALID_TO));
        boolean dates = columns.stream()
                .anyMatch(
                        column -> column.name().equals(definition.conventions().column(AuditColumn.VALID_FROM))
                                && column.type().equals(SqlType.DATE));
        LocalDate day = moment.toLocalDate();
        boolean wholeDay = moment.equals(day.atStartOfDay()) && !dates;
        String at = dates
                ? dialect.date(day)
                : dialect.timestamp(wholeDay ? day.plusDays(1).atStartOfDay() : moment);
        String begun = from + (wholeDay ? " < " : " <= ") + at;
        String notEnded = at + (definition.conventions().inclusive() || wholeDay ? " <= " : " < ") + to;
        return begun + " and (" + to + " is null or " + notEnded + ")";
    }
}
