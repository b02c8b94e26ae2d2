package dev.zeitkammer.books;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zeitkammer.staging.WaitingRow;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A staged row that waits, as the books keep it.
 *
 * @param table the table that it is for
 * @param since the date of the load since which it waits
 * @param days from that date to the newest one for which the warehouse was loaded
 */
public record WaitingEntry(String table, String since, long days, WaitingRow row) {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final TypeReference<LinkedHashMap<String, @Nullable String>> TEXTS = new TypeReference<>() {};

    /** The same as a row that is not loaded. */
    public SetAsideRow notLoaded() {
        return new SetAsideRow(
                row.since(), table, row.reason(), row.column(), row.value(), row.file(), row.line(), row.text());
    }

    static List<@Nullable Object> values(String table, WaitingRow row) {
        return Arrays.asList(
                table,
                row.input(),
                row.row(),
                row.since(),
                row.reason(),
                row.column(),
                row.value(),
                row.file(),
                row.line(),
                row.text(),
                written(row));
    }

    private static String written(WaitingRow row) {
        try {
            return JSON.writeValueAsString(row.values());
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    static LinkedHashMap<String, @Nullable String> read(@Nullable String values) {
        try {
            return JSON.readValue(String.valueOf(values), TEXTS);
        } catch (JsonProcessingException broken) {
            throw new IllegalStateException("the books hold values of a waiting row that cannot be read", broken);
        }
    }
}
