package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SealBooks.Accepted;
import dev.zeitkammer.view.WarehouseState;
import dev.zeitkammer.view.WarehouseState.TableState;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/** What an operator of several warehouses watches: what runs, what came late, what waits, and how each table's newest load went. */
final class OperationsPage {

    /** By this the file with the same for programs is known for one that may be replaced. */
    static final String MADE = "\"madeBy\": \"zeitkammer\"";

    private final List<WarehouseState> warehouses;

    OperationsPage(List<WarehouseState> warehouses) {
        this.warehouses = warehouses;
    }

    String html() {
        StringBuilder html =
                new StringBuilder("<div class=\"wide\"><table><thead><tr><th>project</th><th>warehouse</th>"
                        + "<th>now</th><th>newest load that was done</th><th>usually every</th><th class=\"number\">waiting rows</th>"
                        + "</tr></thead><tbody>\n");
        warehouses.forEach(state -> html.append(line(state)));
        html.append("</tbody></table></div>\n");
        warehouses.stream().filter(state -> !state.loads().isEmpty()).forEach(state -> html.append(tables(state)));
        return html.toString();
    }

    private static String line(WarehouseState state) {
        String done = state.newestDone()
                .map(load -> "load " + load.load() + " for " + load.date() + ", "
                        + state.age().map(age -> told(age) + " ago").orElse(""))
                .orElse(state.unreadable().isPresent() ? "" : "none");
        return "<tr class=\"warehouse\"><td>" + SvgDrawing.text(state.project()) + "</td><td>"
                + SvgDrawing.text(state.warehouse())
                + "</td>"
                + cell(now(state), isAmiss(state))
                + cell(done + (state.isOverdue() ? ": overdue" : ""), state.isOverdue())
                + cell(state.usualPause().map(OperationsPage::told).orElse(""), false)
                + number(state.waiting().stream().mapToLong(rows -> rows.rows()).sum())
                + "</tr>\n";
    }

    /** A warehouse that cannot be read, or whose newest load ended otherwise than done; what was taken back was meant. */
    private static boolean isAmiss(WarehouseState state) {
        return state.unreadable().isPresent()
                || state.newest()
                        .map(LoadEntry::status)
                        .filter(status -> status == LoadStatus.FAILED || status == LoadStatus.STOPPED)
                        .isPresent();
    }

    private static String now(WarehouseState state) {
        return state.unreadable()
                .or(() -> state.begun()
                        .map(load -> "load " + load.load() + " for " + load.date() + " runs, or was cut off, since "
                                + moment(load.started())))
                .or(() -> state.newest()
                        .filter(load -> load.status() != LoadStatus.DONE)
                        .map(load -> "load " + load.load() + " for " + load.date() + ": "
                                + load.status().word()))
                .orElse("nothing runs");
    }

    private static String tables(WarehouseState state) {
        StringBuilder html = new StringBuilder("<h3>" + SvgDrawing.text(state.project() + ", " + state.warehouse())
                + "</h3>\n<div class=\"wide\"><table>"
                + "<thead><tr><th>table</th><th>newest load</th><th>status</th>");
        for (String head : List.of("staged", "set aside", "unmatched", "waiting", "seconds", "usual")) {
            html.append("<th class=\"number\">").append(head).append("</th>");
        }
        html.append("</tr></thead><tbody>\n");
        state.tables().forEach(table -> html.append(row(table)));
        html.append("</tbody></table></div>\n");
        for (Accepted accepted : state.accepted()) {
            html.append("<p class=\"hint\">")
                    .append(SvgDrawing.text(accepted.table() + ": a change by hand was accepted at "
                            + moment(accepted.at()) + " by " + accepted.by() + ": " + accepted.reason()))
                    .append("</p>\n");
        }
        return html.toString();
    }

    private static String row(TableState table) {
        boolean isAmiss = !table.entry().isLoaded();
        return "<tr><td>" + SvgDrawing.text(table.entry().table()) + "</td><td>"
                + table.load().load() + " for "
                + SvgDrawing.text(table.load().date()) + "</td>"
                + cell(
                        table.entry().status().word()
                                + table.entry().error().map(": "::concat).orElse(""),
                        isAmiss)
                + number(table.entry().count("staged"))
                + numberAmiss(table.entry().count("setAside"))
                + number(table.entry().lookedUp("unmatched"))
                + "<td class=\"number\">"
                + table.waiting()
                        .map(rows -> grouped(rows.rows()) + " since " + SvgDrawing.text(rows.since()))
                        .orElse("")
                + "</td><td class=\"number" + (table.isSlow() ? " amiss" : "") + "\">"
                + SvgDrawing.number(table.entry().seconds()) + "</td><td class=\"number\">"
                + table.usual().map(SvgDrawing::number).orElse("") + "</td></tr>\n";
    }

    private static String cell(String text, boolean isAmiss) {
        return "<td" + (isAmiss ? " class=\"amiss\"" : "") + ">" + SvgDrawing.text(text) + "</td>";
    }

    private static String number(long value) {
        return "<td class=\"number\">" + (value == 0 ? "" : grouped(value)) + "</td>";
    }

    private static String numberAmiss(long value) {
        return value == 0 ? number(value) : "<td class=\"number amiss\">" + grouped(value) + "</td>";
    }

    private static String grouped(long value) {
        return String.format(Locale.ROOT, "%,d", value);
    }

    private static String moment(LocalDateTime moment) {
        return moment.truncatedTo(ChronoUnit.SECONDS).toString().replace('T', ' ');
    }

    /** In the largest unit of which there are two or more. */
    private static String told(Duration time) {
        if (time.toDays() >= 2) {
            return time.toDays() + " days";
        }
        if (time.toHours() >= 2) {
            return time.toHours() + " hours";
        }
        return time.toMinutes() >= 2 ? time.toMinutes() + " minutes" : time.toSeconds() + " s";
    }

    /** Of what is not there, the value is an empty text. */
    Map<String, Object> data() {
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("madeBy", "zeitkammer");
        List<Object> all = new ArrayList<>();
        for (WarehouseState state : warehouses) {
            Map<String, Object> fields = new LinkedHashMap<>();
            fields.put("project", state.project());
            fields.put("warehouse", state.warehouse());
            fields.put("read", moment(state.at()));
            fields.put("unreadable", state.unreadable().orElse(""));
            fields.put("begun", state.begun().<Object>map(LoadEntry::load).orElse(""));
            fields.put("newest", state.newest().<Object>map(LoadEntry::load).orElse(""));
            fields.put(
                    "status", state.newest().map(load -> load.status().word()).orElse(""));
            fields.put("done", state.newestDone().<Object>map(LoadEntry::load).orElse(""));
            fields.put(
                    "ageSeconds", state.age().<Object>map(Duration::toSeconds).orElse(""));
            fields.put(
                    "usualPauseSeconds",
                    state.usualPause().<Object>map(Duration::toSeconds).orElse(""));
            fields.put("overdue", state.isOverdue());
            fields.put(
                    "tables", state.tables().stream().map(OperationsPage::data).toList());
            all.add(fields);
        }
        data.put("warehouses", all);
        return data;
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
}
