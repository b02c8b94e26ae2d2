package dev.zeitkammer.engine.duckdb;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.sql.SQLException;
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

    private static final ObjectMapper JSON = new ObjectMapper();

    private WrittenRows() {}

    /** Empty where the last statement made no table, or the engine did not count. */
    static OptionalLong of(DuckDBConnection connection) throws SQLException {
        String counted = connection.getProfilingInformation(ProfilerPrintFormat.JSON);
        if (counted == null || counted.isEmpty()) {
            return OptionalLong.empty();
        }
        try {
            JsonNode made = JSON.readTree(counted).path("children").path(0);
            return type(made).endsWith("CREATE_TABLE_AS") ? flowed(made.path("children")) : OptionalLong.empty();
        } catch (JsonProcessingException other) {
            return OptionalLong.empty();
        }
    }

    private static String type(JsonNode operator) {
        return operator.path("operator_type").asText();
    }

    /** What came out of the operator below. Those that only hand on what others give have no count of their own. */
    private static OptionalLong flowed(JsonNode children) {
        if (children.isEmpty()) {
            return OptionalLong.empty();
        }
        JsonNode last = children.path(children.size() - 1);
        return switch (type(last)) {
            case "UNION" -> sum(last.path("children"));
            case "CTE", "RECURSIVE_CTE" -> flowed(last.path("children"));
            default -> OptionalLong.of(last.path("operator_cardinality").asLong());
        };
    }

    private static OptionalLong sum(JsonNode parts) {
        long all = 0;
        for (JsonNode part : parts) {
            OptionalLong rows = flowed(JSON.createArrayNode().add(part));
            if (rows.isEmpty()) {
                return rows;
            }
            all += rows.getAsLong();
        }
        return OptionalLong.of(all);
    }
}
