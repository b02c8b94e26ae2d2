package dev.zeitkammer.engine.duckdb;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonToken;
import java.io.IOException;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.OptionalLong;
import org.duckdb.DuckDBConnection;
import org.duckdb.ProfilerPrintFormat;

/**
 * How many rows the last statement of a connection sent into the table that it made. The driver tells it of an insert only;
 * for a table made of a query it is read from the engine's own counts of what flowed between its operators.
 */
final class WrittenRows {

    /** Lets the engine count, and nothing else. */
    static final String COUNTING = "set enable_profiling = 'no_output'; set custom_profiling_settings ="
            + " '{\"OPERATOR_CARDINALITY\": \"true\", \"OPERATOR_TYPE\": \"true\"}'";

    /** Read token by token: what binds JSON to objects takes longer to be made ready than a small load runs. */
    private static final JsonFactory JSON = new JsonFactory();

    private WrittenRows() {}

    /** An operator of a statement, with what came out of it, and the operators below. */
    private record Operator(String type, long rows, List<Operator> below) {

        static final Operator NONE = new Operator("", 0, List.of());
    }

    /** Empty where the last statement made no table, or the engine did not count. */
    static OptionalLong of(DuckDBConnection connection) throws SQLException {
        String counted = connection.getProfilingInformation(ProfilerPrintFormat.JSON);
        if (counted == null || counted.isEmpty()) {
            return OptionalLong.empty();
        }
        try (JsonParser json = JSON.createParser(counted)) {
            json.nextToken();
            Operator made = operator(json).below().stream().findFirst().orElse(Operator.NONE);
            return made.type().endsWith("CREATE_TABLE_AS") ? flowed(made.below()) : OptionalLong.empty();
        } catch (IOException other) {
            return OptionalLong.empty();
        }
    }

    private static Operator operator(JsonParser json) throws IOException {
        String type = "";
        long rows = 0;
        List<Operator> below = List.of();
        while (json.nextToken() == JsonToken.FIELD_NAME) {
            String field = json.currentName();
            json.nextToken();
            switch (field) {
                case "operator_type" -> type = json.getText();
                case "operator_cardinality" -> rows = json.getValueAsLong();
                case "children" -> below = operators(json);
                default -> json.skipChildren();
            }
        }
        return new Operator(type, rows, below);
    }

    private static List<Operator> operators(JsonParser json) throws IOException {
        List<Operator> operators = new ArrayList<>();
        while (json.nextToken() == JsonToken.START_OBJECT) {
            operators.add(operator(json));
        }
        return operators;
    }

    /** What came out of the operator below. Those that only hand on what others give have no count of their own. */
    private static OptionalLong flowed(List<Operator> below) {
        if (below.isEmpty()) {
            return OptionalLong.empty();
        }
        Operator last = below.get(below.size() - 1);
        return switch (last.type()) {
            case "UNION" -> sum(last.below());
            case "CTE", "RECURSIVE_CTE" -> flowed(last.below());
            // joins to what a correlated subquery asks: the rows come out of an operator among those below, which are
            // told in any order
            case "LEFT_DELIM_JOIN", "RIGHT_DELIM_JOIN" -> OptionalLong.empty();
            default -> OptionalLong.of(last.rows());
        };
    }

    private static OptionalLong sum(List<Operator> parts) {
        long all = 0;
        for (Operator part : parts) {
            OptionalLong rows = flowed(List.of(part));
            if (rows.isEmpty()) {
                return rows;
            }
            all += rows.getAsLong();
        }
        return OptionalLong.of(all);
    }
}
