package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** The rows of a table, a view or a query in the warehouse; a query sees other inputs as tables of their names. */
final class WarehouseRows extends Source {

    private static final String HANDED_OVER = "zk_handed_over";
    private static final String LOCATED = "zk_located";

    private final Input input;
    private final String relation;
    private final String shown;
    private final Warehouse warehouse;
    private final List<StagedRows> parts;
    private final List<Column> columns;
    private Optional<PlacedQuery> placed = Optional.empty();
    private boolean remembers;
    private boolean isStagedThere;

    private WarehouseRows(
            Input input, String relation, Word origin, String shown, Warehouse warehouse, List<StagedRows> parts) {
        this.input = input;
        this.relation = relation;
        this.shown = shown;
        this.warehouse = warehouse;
        this.parts = parts;
        try {
            this.columns = warehouse.describe("select * from " + relation);
        } catch (WarehouseException wrong) {
            throw new StagingException(
                    origin.place() + ": cannot read " + shown + " in the warehouse: "
                            + wrong.getMessage().lines().findFirst().orElse(""),
                    wrong);
        }
    }

    static WarehouseRows ofTable(Input input, Input.Table table, Warehouse warehouse) {
        String quoted = Arrays.stream(table.name().text().split("\\."))
                .map(warehouse.dialect()::quote)
                .collect(Collectors.joining("."));
        return new WarehouseRows(input, quoted, table.name(), "the table " + table.name(), warehouse, List.of());
    }

    /** The rows that an input keeps; empty where it keeps none yet. */
    static Optional<Source> ofKept(Input input, Warehouse warehouse) {
        KeptTable table = new KeptTable(input, warehouse);
        List<Column> columns = table.columns();
        if (columns.isEmpty()) {
            return Optional.empty();
        }
        WarehouseRows rows = new WarehouseRows(
                input, table.rows(columns), input.name(), "the kept rows of " + input.name(), warehouse, List.of());
        rows.remembers = true;
        return Optional.of(rows);
    }

    @Override
    boolean remembers() {
        return remembers;
    }

    static WarehouseRows ofQuery(
            Input input,
            Input.Query query,
            List<Source> sources,
            Warehouse warehouse,
            Staging staging,
            Earlier earlier) {
        List<StagedRows> parts = new ArrayList<>();
        for (Source source : sources) {
            parts.add(part(source, warehouse, staging, earlier));
        }
        PlacedQuery.name(warehouse, parts, Optional.empty());
        String sql = query.sql().text().strip().replaceFirst(";$", "");
        WarehouseRows rows = new WarehouseRows(
                input,
                "(\n" + sql + "\n) as q",
                query.sql(),
                "the query of the input " + input.name(),
                warehouse,
                parts);
        rows.placed = PlacedQuery.of(sql, rows.columns, parts, warehouse);
        return rows;
    }

    /** Stages an input whole. */
    private static StagedRows part(Source source, Warehouse warehouse, Staging staging, Earlier earlier) {
        Wanted wanted = new Wanted(source);
        source.header().forEach(column -> wanted.column(column, Optional.empty()));
        source.input().where().ifPresent(wanted::expression);
        return staging.stageThere(source, wanted, earlier.withoutWaiting(), Staging.relationOf(source.input()));
    }

    @Override
    public Input input() {
        return input;
    }

    @Override
    public List<String> header() {
        return columns.stream().map(Column::name).map(Names::of).toList();
    }

    @Override
    public String shown() {
        return shown;
    }

    @Override
    public RowForm form(String file) {
        return parts.stream()
                .map(StagedRows::source)
                .filter(part -> part.holds(file))
                .findFirst()
                .map(part -> part.form(file))
                .orElseGet(() -> TypedRows.form(header()));
    }

    @Override
    Optional<SqlType> type(String column) {
        return typeOf(columns, column).filter(type -> !warehouse.dialect().isLoose(type));
    }

    @Override
    String query(Map<String, Optional<SqlType>> wanted, Earlier earlier) {
        String sql = lying(wanted.keySet());
        if (warehouse.stager() == warehouse) {
            return sql;
        }
        warehouse.handOver(sql, HANDED_OVER);
        return "select * from " + HANDED_OVER;
    }

    private String lying(Collection<String> wanted) {
        return "select " + TypedRows.columns(wanted, columns, warehouse.dialect())
                + placed.map(query -> PlacedQuery.PLACE + ", ").orElse("") + "cast(0 as smallint) as zk_file\nfrom "
                + placed.map(PlacedQuery::relation).orElse(relation);
    }

    @Override
    Optional<String> inWarehouse(Collection<String> wanted) {
        return Optional.of(lying(wanted));
    }

    @Override
    void stagedThere() {
        isStagedThere = true;
    }

    @Override
    List<String> extras() {
        return placed.map(query -> List.of(PlacedQuery.PLACE)).orElse(List.of());
    }

    @Override
    List<Unusable> unusable(String staged) {
        parts.forEach(part -> warehouse.dropName(part.source().input().name().text()));
        return parts.stream().flatMap(part -> TypedRows.lost(part).stream()).toList();
    }

    @Override
    List<String> statements() {
        return parts.stream().flatMap(part -> part.statements().stream()).toList();
    }

    @Override
    Map<String, Map<String, SqlType>> inferred() {
        Map<String, Map<String, SqlType>> inferred = new HashMap<>();
        parts.forEach(part -> inferred.putAll(part.inferred()));
        return inferred;
    }

    @Override
    List<Locator.Located> locate(String staged, Collection<Long> rows) {
        if (placed.isPresent()) {
            StagedRows part = parts.get(placed.get().part());
            return TypedRows.located(
                    isStagedThere ? warehouse : warehouse.stager(),
                    staged,
                    PlacedQuery.PLACE,
                    rows,
                    part,
                    Staging.relationOf(part.source().input()));
        }
        if (isStagedThere) {
            warehouse.handOver("select * from " + staged + " where zk_row in " + numbers(rows), LOCATED);
            return TypedRows.locate(warehouse.stager(), LOCATED, rows, shown);
        }
        return TypedRows.locate(warehouse.stager(), staged, rows, shown);
    }
}
