package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A query over other inputs that also tells from which of their rows each of its own comes: known of queries that give one row
 * for each row they read, or for each pair of a join, and of no others.
 *
 * @param relation the query as a relation, with the column {@link #PLACE}
 * @param part the number of the input whose rows are told
 */
record PlacedQuery(String relation, int part) {

    /** The row of the input that is told. */
    static final String PLACE = "zk_place";

    private static final Pattern ROW_BY_ROW = Pattern.compile("^select\\b", Pattern.CASE_INSENSITIVE);
    private static final Pattern MORE = Pattern.compile(
            "\\b(distinct|union|intersect|except|group|having|limit|fetch|offset|natural|pivot|unpivot|sample|qualify|over)\\b"
                    + "|\\border\\s+by\\s+\\d|--|/\\*",
            Pattern.CASE_INSENSITIVE);

    /** Makes the names by which a query knows the inputs. */
    static void name(Warehouse warehouse, List<StagedRows> parts, Optional<Integer> placed) {
        Dialect dialect = warehouse.dialect();
        for (int number = 0; number < parts.size(); number++) {
            Source source = parts.get(number).source();
            Input input = source.input();
            String place = placed.equals(Optional.of(number)) ? ", zk_row as " + PLACE : "";
            String where = input.where().map(sql -> " and (" + sql.text() + ")").orElse("");
            warehouse.name(
                    input.name().text(),
                    "select " + dialect.columns(source.header()) + place + " from " + Staging.relationOf(input)
                            + " where zk_bad_column is null" + where);
        }
    }

    /**
     * The query with the places of its rows; the names of the inputs then stand as it needs them, else as they were.
     *
     * @param columns the columns of the query without them
     */
    static Optional<PlacedQuery> of(String sql, List<Column> columns, List<StagedRows> parts, Warehouse warehouse) {
        Matcher select = ROW_BY_ROW.matcher(sql);
        if (!select.lookingAt() || MORE.matcher(sql).find()) {
            return Optional.empty();
        }
        String telling = "select " + PLACE + ", " + sql.substring(select.end());
        for (int part = 0; part < parts.size(); part++) {
            name(warehouse, parts, Optional.of(part));
            for (String candidate : List.of(telling, sql)) {
                String relation = "(\n" + candidate + "\n) as q";
                if (tells(relation, columns, warehouse)) {
                    return Optional.of(new PlacedQuery(relation, part));
                }
            }
        }
        name(warehouse, parts, Optional.empty());
        return Optional.empty();
    }

    /** Whether the relation has the columns of the query and the place, once. */
    private static boolean tells(String relation, List<Column> columns, Warehouse warehouse) {
        try {
            List<Column> told = warehouse.describe("select * from " + relation);
            return told.stream().filter(column -> column.name().equals(PLACE)).count() == 1
                    && told.stream()
                            .filter(column -> !column.name().equals(PLACE))
                            .toList()
                            .equals(columns);
        } catch (WarehouseException aggregated) {
            return false;
        }
    }
}
