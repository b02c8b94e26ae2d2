package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.view.WarehouseState;
import java.time.Duration;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** What an operator watches: for each table the rows and seconds of its loads, what was set aside, what found nobody. */
final class LoadCharts {

    private static final int MOST = 60;
    private static final double BAR = 6;
    private static final double HEIGHT = 52;
    private static final double SECONDS = 16;

    private final List<LoadEntry> loads;

    /** @param loads the oldest first */
    LoadCharts(List<LoadEntry> loads) {
        this.loads = loads;
    }

    private record Loaded(LoadEntry load, TableEntry entry) {
        long staged() {
            return entry.count("staged");
        }

        long aside() {
            return entry.count("setAside");
        }

        long unmatched() {
            return entry.lookedUp("unmatched");
        }
    }

    String html() {
        if (loads.isEmpty()) {
            return "<p>Nothing has been loaded yet.</p>\n";
        }
        Map<String, List<Loaded>> byTable = new LinkedHashMap<>();
        for (LoadEntry load : loads) {
            load.tables()
                    .forEach(entry -> byTable.computeIfAbsent(entry.table(), first -> new ArrayList<>())
                            .add(new Loaded(load, entry)));
        }
        StringBuilder html = new StringBuilder(newest());
        html.append("<div class=\"wide\"><table><thead><tr><th>table</th><th>loads, the newest on the right</th>");
        for (String head :
                List.of("staged", "inserted", "updated", "set aside", "unmatched", "waiting", "seconds", "usual")) {
            html.append("<th class=\"number\">").append(head).append("</th>");
        }
        html.append("<th>newest load</th></tr></thead><tbody>\n");
        byTable.forEach((table, loaded) -> html.append(row(table, loaded)));
        html.append("</tbody></table></div>\n");
        html.append(
                "<p class=\"hint\">Bars are staged rows, the part at their foot those set aside; the line above them is seconds; an empty"
                        + " frame is a load that did not end well. “usual” is the median of the seconds of the loads before.</p>\n");
        return html.append(all()).toString();
    }

    private String newest() {
        LoadEntry last = loads.get(loads.size() - 1);
        String status = last.status().word();
        boolean isGood = last.status() == LoadStatus.DONE;
        return "<p>" + loads.size() + (loads.size() == 1 ? " load" : " loads") + "; the newest is load " + last.load()
                + " for "
                + SvgDrawing.text(last.date()) + ": <span" + (isGood ? "" : " class=\"amiss\"") + ">" + status
                + "</span>"
                + last.ended()
                        .map(ended -> " in " + seconds(last.started(), ended) + " s")
                        .orElse("") + ".</p>\n";
    }

    private static String seconds(LocalDateTime started, LocalDateTime ended) {
        return SvgDrawing.number(Duration.between(started, ended).toMillis() / 1000.0);
    }

    private static String row(String table, List<Loaded> all) {
        List<Loaded> loaded = all.subList(Math.max(0, all.size() - MOST), all.size());
        Loaded last = loaded.get(loaded.size() - 1);
        Optional<Double> usual = WarehouseState.usual(
                loaded.subList(0, loaded.size() - 1).stream().map(Loaded::entry).toList());
        boolean isSlow = WarehouseState.isSlow(last.entry().seconds(), usual);
        String status = last.entry().status().word();
        return "<tr><td>" + SvgDrawing.text(table) + "</td><td>" + bars(table, loaded) + "</td>"
                + number(last.staged(), false)
                + number(last.entry().inserted(), false)
                + number(last.entry().updated(), false)
                + number(last.aside(), last.aside() > 0)
                + number(last.unmatched(), false)
                + number(last.entry().count("waiting"), false)
                + "<td class=\"number" + (isSlow ? " amiss" : "") + "\">"
                + SvgDrawing.number(last.entry().seconds()) + "</td>"
                + "<td class=\"number\">" + usual.map(SvgDrawing::number).orElse("") + "</td>"
                + "<td" + (last.entry().isLoaded() ? "" : " class=\"amiss\"") + ">" + status
                + last.entry()
                        .error()
                        .map(error -> ": " + SvgDrawing.text(error))
                        .orElse("") + "</td></tr>\n";
    }

    private static String number(long value, boolean amiss) {
        return "<td class=\"number" + (amiss ? " amiss" : "") + "\">"
                + (value == 0 ? "" : String.format(Locale.ROOT, "%,d", value)) + "</td>";
    }

    private static String bars(String table, List<Loaded> loaded) {
        long most = Math.max(1, loaded.stream().mapToLong(Loaded::staged).max().orElse(1));
        double longest = Math.max(
                0.1,
                loaded.stream()
                        .mapToDouble(each -> each.entry().seconds())
                        .max()
                        .orElse(0));
        double width = Math.max(120, loaded.size() * (BAR + 2) + 4);
        StringBuilder svg = new StringBuilder(
                "<svg class=\"bars\" role=\"img\" width=\"" + SvgDrawing.number(width) + "\" height=\""
                        + SvgDrawing.number(HEIGHT + 2) + "\" aria-label=\"" + SvgDrawing.text(table) + ": "
                        + loaded.size() + " loads, at most " + most + " rows staged\">");
        svg.append("<line class=\"base\" x1=\"0\" x2=\"" + SvgDrawing.number(width) + "\" y1=\""
                + SvgDrawing.number(HEIGHT) + "\" y2=\"" + SvgDrawing.number(HEIGHT) + "\"/>");
        List<String> time = new ArrayList<>();
        for (int index = 0; index < loaded.size(); index++) {
            Loaded each = loaded.get(index);
            double x = 2 + index * (BAR + 2);
            double height = Math.max(each.staged() > 0 ? 1 : 0, each.staged() * (HEIGHT - SECONDS - 4) / most);
            double aside = Math.max(each.aside() > 0 ? 1.5 : 0, each.aside() * (HEIGHT - SECONDS - 4) / most);
            svg.append("<g><title>load ")
                    .append(each.load().load())
                    .append(", ")
                    .append(SvgDrawing.text(each.load().date()))
                    .append(": ")
                    .append(each.staged())
                    .append(" staged, ")
                    .append(each.aside())
                    .append(" set aside, ")
                    .append(SvgDrawing.number(each.entry().seconds()))
                    .append(" s</title>");
            svg.append(bar("rows", x, HEIGHT - height, height));
            if (each.aside() > 0) {
                svg.append(bar("aside", x, HEIGHT - aside, aside));
            }
            if (!each.entry().isLoaded()) {
                svg.append(bar("failed", x, 2, HEIGHT - 3));
            }
            svg.append("</g>");
            time.add(SvgDrawing.number(x + BAR / 2) + ","
                    + SvgDrawing.number(SECONDS - 1 - each.entry().seconds() * (SECONDS - 4) / longest));
        }
        return svg.append("<polyline class=\"time\" points=\"")
                .append(String.join(" ", time))
                .append("\"/></svg>")
                .toString();
    }

    private static String bar(String look, double x, double y, double height) {
        return "<rect class=\"" + look + "\" x=\"" + SvgDrawing.number(x) + "\" y=\"" + SvgDrawing.number(y)
                + "\" width=\"" + SvgDrawing.number(BAR) + "\" height=\"" + SvgDrawing.number(height) + "\"/>";
    }

    private String all() {
        StringBuilder html =
                new StringBuilder("<details><summary>Every load</summary><div class=\"wide\"><table><thead><tr>");
        for (String head :
                List.of("load", "for", "status", "table", "staged", "inserted", "updated", "set aside", "seconds")) {
            html.append("<th>").append(head).append("</th>");
        }
        html.append("</tr></thead><tbody>\n");
        for (int index = loads.size() - 1; index >= Math.max(0, loads.size() - MOST); index--) {
            LoadEntry load = loads.get(index);
            for (TableEntry entry : load.tables()) {
                Loaded loaded = new Loaded(load, entry);
                html.append("<tr><td class=\"number\">")
                        .append(load.load())
                        .append("</td><td>")
                        .append(SvgDrawing.text(load.date()))
                        .append("</td><td>")
                        .append(entry.status().word())
                        .append("</td><td>")
                        .append(SvgDrawing.text(entry.table()))
                        .append("</td>")
                        .append(number(loaded.staged(), false))
                        .append(number(entry.inserted(), false))
                        .append(number(entry.updated(), false))
                        .append(number(loaded.aside(), false))
                        .append("<td class=\"number\">")
                        .append(SvgDrawing.number(entry.seconds()))
                        .append("</td></tr>\n");
            }
        }
        return html.append("</tbody></table></div></details>\n").toString();
    }
}
