package dev.zeitkammer.cli.output;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse.Result;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Rows of a table. */
public final class RowsOutput {

    private final Output output;
    private final Stamps stamps;

    public RowsOutput(Output output, Stamps stamps) {
        this.output = output;
        this.stamps = stamps;
    }

    public void write(Result result, Format format) {
        switch (format) {
            case TEXT -> text(result);
            case JSON ->
                output.data(Json.of(result.rows().stream()
                        .map(row -> json(result.columns(), row))
                        .toList()));
            case CSV -> {
                output.data(Csv.line(result.columns().stream().map(Column::name).toList()));
                result.rows().forEach(row -> output.data(Csv.line(row)));
            }
        }
    }

    private void text(Result result) {
        TextTable table = headed(result.columns());
        result.rows().forEach(row -> table.row(shown(result.columns(), row)));
        output.block(table.render(""));
    }

    /** A table with these columns and no rows yet. */
    static TextTable headed(List<Column> columns) {
        TextTable table = new TextTable();
        for (Column column : columns) {
            switch (column.type().kind()) {
                case SMALLINT, INTEGER, BIGINT, DECIMAL, REAL, DOUBLE -> table.number(column.name());
                case BOOLEAN, DATE, TIMESTAMP, TIME, VARCHAR -> table.text(column.name());
            }
        }
        return table;
    }

    private List<String> shown(List<Column> columns, List<@Nullable Object> row) {
        List<String> cells = new ArrayList<>();
        for (int index = 0; index < columns.size(); index++) {
            cells.add(Values.shown(
                    row.get(index), stamps.isTime(columns.get(index).name())));
        }
        return cells;
    }

    static Map<String, @Nullable Object> json(List<Column> columns, List<@Nullable Object> row) {
        Map<String, @Nullable Object> json = new LinkedHashMap<>();
        for (int index = 0; index < columns.size(); index++) {
            json.put(columns.get(index).name(), Values.json(row.get(index)));
        }
        return json;
    }
}
