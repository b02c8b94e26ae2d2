package dev.zeitkammer.cli.drawing;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.view.DiskSizes;
import dev.zeitkammer.view.DiskSizes.Size;
import dev.zeitkammer.view.WarehouseState;
import dev.zeitkammer.view.WarehouseState.TableState;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.format.DateTimeParseException;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What an operator watches, for programs: as maps and lists. From the one before it is known how much room a warehouse took. */
public final class OperationsData {

    /** By this the file is known for one that may be replaced. */
    static final String MADE = "\"madeBy\": \"zeitkammer\"";

    private OperationsData() {}

    /** Of what is not there, the value is an empty text. */
    public static Map<String, Object> of(List<WarehouseState> warehouses) {
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("madeBy", "zeitkammer");
        data.put("warehouses", warehouses.stream().map(OperationsData::data).toList());
        return data;
    }

    private static Map<String, Object> data(WarehouseState state) {
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("project", state.project());
        fields.put("warehouse", state.warehouse());
        fields.put("read", moment(state.at()));
        fields.put("unreadable", state.unreadable().orElse(""));
        fields.put("begun", state.begun().<Object>map(LoadEntry::load).orElse(""));
        fields.put("newest", state.newest().<Object>map(LoadEntry::load).orElse(""));
        fields.put("status", state.newest().map(load -> load.status().word()).orElse(""));
        fields.put("done", state.newestDone().<Object>map(LoadEntry::load).orElse(""));
        fields.put("ageSeconds", state.age().<Object>map(Duration::toSeconds).orElse(""));
        fields.put(
                "usualPauseSeconds",
                state.usualPause().<Object>map(Duration::toSeconds).orElse(""));
        fields.put("overdue", state.isOverdue());
        fields.put(
                "changedByHand", state.changed().<Object>map(tables -> tables).orElse(""));
        fields.put("tables", state.tables().stream().map(OperationsData::data).toList());
        fields.put("diskOf", state.disk().of());
        fields.put(
                "disk", state.disk().sizes().stream().map(OperationsData::data).toList());
        return fields;
    }

    private static Map<String, Object> data(Size size) {
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("at", moment(size.at()));
        fields.put("bytes", size.bytes());
        return fields;
    }

    private static Map<String, Object> data(TableState table) {
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("table", table.entry().table());
        fields.put("load", table.load().load());
        fields.put("date", table.load().date());
        fields.put("status", table.entry().status().word());
        fields.put("error", table.entry().error().orElse(""));
        fields.put("staged", table.entry().count("staged"));
        fields.put("setAside", table.entry().count("setAside"));
        fields.put("unmatched", table.entry().lookedUp("unmatched"));
        fields.put("waiting", table.waiting().map(rows -> rows.rows()).orElse(0L));
        fields.put("waitingSince", table.waiting().map(rows -> rows.since()).orElse(""));
        fields.put("seconds", table.entry().seconds());
        fields.put("usualSeconds", table.usual().<Object>map(seconds -> seconds).orElse(""));
        fields.put("slow", table.isSlow());
        return fields;
    }

    private static String moment(LocalDateTime moment) {
        return moment.truncatedTo(ChronoUnit.SECONDS).toString().replace('T', ' ');
    }

    /**
     * The sizes of a warehouse that are in what was written before; none where it says nothing of it, or is no such file.
     *
     * @param before the file that is replaced
     * @param of the folder of the project and the name of the warehouse in it
     */
    public static DiskSizes disk(String before, String of) {
        List<Size> sizes = new ArrayList<>();
        try {
            for (JsonNode state : new ObjectMapper().readTree(before).path("warehouses")) {
                if (state.path("diskOf").asText().equals(of)) {
                    state.path("disk").forEach(size -> sizes.add(size(size)));
                }
            }
        } catch (JsonProcessingException | DateTimeParseException others) {
            sizes.clear();
        }
        return new DiskSizes(of, sizes);
    }

    private static Size size(JsonNode size) {
        return new Size(
                LocalDateTime.parse(size.path("at").asText().replace(' ', 'T')),
                size.path("bytes").asLong());
    }
}
