package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.database.OperationalDatabase;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** The rows of a table or a query in an operational database, carried over in bulk. */
final class DatabaseRows extends Source {

    private static final String CARRIED = "zk_carried_rows";

    private final Input input;
    private final String relation;
    private final String shown;
    private final OperationalDatabase database;
    private final Stager stager;
    private final Map<String, Optional<SqlType>> columns;

    private DatabaseRows(
            Input input, String relation, Word origin, String shown, OperationalDatabase database, Stager stager) {
        this.input = input;
        this.relation = relation;
        this.shown = shown + " in " + database.name();
        this.database = database;
        this.stager = stager;
        try {
            this.columns = database.columns(relation);
        } catch (WarehouseException wrong) {
            throw new StagingException(
                    origin.place() + ": cannot read " + this.shown + ": "
                            + wrong.getMessage().lines().findFirst().orElse(""),
                    wrong);
        }
    }

    static DatabaseRows ofTable(Input input, Input.Table table, OperationalDatabase database, Stager stager) {
        return new DatabaseRows(
                input,
                database.table(table.name().text()),
                table.name(),
                "the table " + table.name(),
                database,
                stager);
    }

    static DatabaseRows ofQuery(Input input, Input.Query query, OperationalDatabase database, Stager stager) {
        String sql = query.sql().text().strip().replaceFirst(";$", "");
        return new DatabaseRows(
                input, "(\n" + sql + "\n) q", query.sql(), "the query of the input " + input.name(), database, stager);
    }

    @Override
    public Input input() {
        return input;
    }

    @Override
    public List<String> header() {
        return columns.keySet().stream().map(Names::of).toList();
    }

    private String written(String name) {
        return Names.written(List.copyOf(columns.keySet()), name);
    }

    @Override
    public String shown() {
        return shown;
    }

    @Override
    public RowForm form(String file) {
        return TypedRows.form(header());
    }

    @Override
    Optional<SqlType> type(String column) {
        return columns.get(written(column));
    }

    @Override
    String query(Map<String, Optional<SqlType>> wanted, Earlier earlier) {
        List<String> names = new ArrayList<>(wanted.keySet());
        if (names.isEmpty()) {
            names.addAll(header());
        }
        Map<String, SqlType> types = new LinkedHashMap<>();
        names.forEach(name -> types.put(name, type(name).orElse(SqlType.VARCHAR)));
        List<Column> carried = types.entrySet().stream()
                .map(column -> new Column(column.getKey(), column.getValue()))
                .toList();
        String selected = names.stream().map(this::written).map(database::quote).collect(Collectors.joining(", "));
        Optional<Beginning> beginning = beginning(earlier);
        String sql = "select " + selected + " from " + relation
                + beginning
                        .map(from -> " where " + database.quote(from.column()) + " > ?")
                        .orElse("");
        database.read(
                sql,
                beginning.map(from -> List.of(from.value())).orElse(List.of()),
                carried,
                rows -> stager.carry(CARRIED, carried, rows));
        return "select " + stager.dialect().columns(wanted.keySet()) + (wanted.isEmpty() ? "" : ", ")
                + "cast(0 as smallint) as zk_file from " + CARRIED;
    }

    private record Beginning(String column, Object value) {}

    /** From where on rows are new; what is older need not be carried over. */
    private Optional<Beginning> beginning(Earlier earlier) {
        String mark = earlier.marks().get(input.name().text());
        if (input.newer().isEmpty() || mark == null) {
            return Optional.empty();
        }
        return column(input.newer().get().column().text())
                .flatMap(column -> type(column)
                        .flatMap(type ->
                                MarkValue.of(mark, type, input.newer().get().overlap()))
                        .map(value -> new Beginning(written(column), value)));
    }

    @Override
    List<Unusable> unusable(String staged) {
        return List.of();
    }

    @Override
    List<Locator.Located> locate(String staged, Collection<Long> rows) {
        return TypedRows.locate(stager, staged, rows, shown);
    }
}
