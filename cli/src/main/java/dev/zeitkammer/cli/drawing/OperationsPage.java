package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SealBooks.Accepted;
import dev.zeitkammer.cli.output.Values;
import dev.zeitkammer.view.DiskSizes;
import dev.zeitkammer.view.WarehouseState;
import dev.zeitkammer.view.WarehouseState.TableState;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Locale;

/** What an operator of several warehouses watches: what runs, what came late, what waits, and how each table's newest load went. */
final class OperationsPage {

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

    private static String disk(DiskSizes sizes) {
        return sizes.newest().map(size -> Values.room(size.bytes())).orElse("")
                + sizes.growth()
                        .map(growth -> ", " + (growth.bytes() < 0 ? "−" : "+") + Values.room(Math.abs(growth.bytes()))
                                + " since " + growth.since())
                        .orElse("")
                + " "
                + SparkLine.of(
                        "room on disk",
                        sizes.sizes().stream()
                                .map(size -> (double) size.bytes())
                                .toList());
    }

    /** What was found by seals; nothing where it was not asked. */
    private static String changed(WarehouseState state) {
        return state.changed()
                .map(tables -> tables.isEmpty()
                        ? "; nobody but loads has changed a table"
                        : "; <span class=\"amiss\">changed by hand: " + SvgDrawing.text(String.join(", ", tables))
                                + "</span>")
                .orElse("");
    }

    /** A warehouse that cannot be read, or whose newest load ended otherwise than done; what was taken back was meant. */
    private static boolean isAmiss(WarehouseState state) {
        return state.unreadable().isPresent()
                || state.changed().filter(tables -> !tables.isEmpty()).isPresent()
                || state.newest()
                        .map(LoadEntry::status)
                        .filter(status -> status == LoadStatus.FAILED || status == LoadStatus.STOPPED)
                        .isPresent();
    }

    private static String now(WarehouseState state) {
        return state.unreadable()
                        .or(() -> state.begun()
                                .map(load -> "load " + load.load() + " for " + load.date()
                                        + " runs, or was cut off, since " + moment(load.started())))
                        .or(() -> state.newest()
                                .filter(load -> load.status() != LoadStatus.DONE)
                                .map(load -> "load " + load.load() + " for " + load.date() + ": "
                                        + load.status().word()))
                        .orElse("nothing runs")
                + state.changed()
                        .filter(tables -> !tables.isEmpty())
                        .map(any -> "; changed by hand")
                        .orElse("");
    }

    private static String tables(WarehouseState state) {
        StringBuilder html = new StringBuilder("<h3>" + SvgDrawing.text(state.project() + ", " + state.warehouse())
                + "</h3>\n<p class=\"hint\">On disk " + disk(state.disk()) + changed(state)
                + "</p>\n<div class=\"wide\"><table><thead><tr><th>table</th><th>newest load</th><th>status</th>");
        for (String head : List.of("staged", "set aside", "unmatched", "waiting", "seconds", "usual")) {
            html.append("<th class=\"number\">").append(head).append("</th>");
        }
        html.append("<th>lately</th></tr></thead><tbody>\n");
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
                + table.usual().map(SvgDrawing::number).orElse("") + "</td><td>"
                + SparkLine.of("seconds", table.lately()) + "</td></tr>\n";
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
}
