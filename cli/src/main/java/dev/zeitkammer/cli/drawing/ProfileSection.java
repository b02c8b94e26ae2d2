package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.profile.ColumnProfile;
import dev.zeitkammer.profile.Distributions.Bar;
import dev.zeitkammer.profile.Distributions.Spread;
import dev.zeitkammer.profile.Profile;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/**
 * What a delivery looks like: a line for each column, with its values as bars.
 *
 * @param input the input's name
 * @param spreads how the values of columns are spread, by column
 * @param stumbles what loads from it would stumble over, in sentences
 */
public record ProfileSection(String input, Profile profile, Map<String, Spread> spreads, List<String> stumbles) {

    private static final double BAR = 13;
    private static final double HEIGHT = 34;
    private static final double PERCENT = 100;

    String html() {
        StringBuilder html =
                new StringBuilder("<p>").append(profile.rows()).append(profile.rows() == 1 ? " row" : " rows");
        if (!profile.keys().isEmpty()) {
            html.append("; ")
                    .append(SvgDrawing.text(String.join(", ", profile.keys().get(0))))
                    .append(" tells them apart");
        }
        html.append(".</p>\n");
        if (!stumbles.isEmpty()) {
            html.append("<ul>");
            stumbles.forEach(stumble ->
                    html.append("<li>").append(SvgDrawing.text(stumble)).append("</li>"));
            html.append("</ul>\n");
        }
        html.append(
                "<div class=\"wide\"><table><thead><tr><th>column</th><th>type</th><th class=\"number\">without a value</th>"
                        + "<th class=\"number\">different</th><th>values</th><th>least</th><th>greatest</th><th>looks like</th></tr></thead><tbody>\n");
        profile.columns().forEach(column -> html.append(row(column)));
        return html.append("</tbody></table></div>\n").toString();
    }

    private String row(ColumnProfile column) {
        return "<tr><td>" + SvgDrawing.text(column.name()) + "</td><td>"
                + SvgDrawing.text(column.type().toString())
                + "</td><td class=\"number" + (column.nulls() > 0 ? " amiss" : "") + "\">" + nulls(column)
                + "</td><td class=\"number\">" + String.format(Locale.ROOT, "%,d", column.distinct()) + "</td><td>"
                + bars(column) + "</td><td>" + cut(column.least()) + "</td><td>" + cut(column.greatest()) + "</td><td>"
                + SvgDrawing.text(profile.remark(column)) + "</td></tr>\n";
    }

    private String nulls(ColumnProfile column) {
        return column.nulls() == 0 || profile.rows() == 0
                ? ""
                : String.format(
                        Locale.ROOT, "%,d (%.0f %%)", column.nulls(), column.nulls() * PERCENT / profile.rows());
    }

    private static String cut(String value) {
        return value == null ? "" : SvgDrawing.text(Arrangement.shortened(value));
    }

    private String bars(ColumnProfile column) {
        List<Bar> bars = spreads.getOrDefault(column.name(), new Spread(List.of(), false))
                .bars();
        if (bars.isEmpty()) {
            return "";
        }
        long most = Math.max(1, bars.stream().mapToLong(Bar::rows).max().orElse(1));
        String all = bars.get(0).label()
                + (bars.size() > 1 ? " to " + bars.get(bars.size() - 1).label() : "");
        double width = bars.size() * (BAR + 2) + 2;
        StringBuilder svg = new StringBuilder("<svg class=\"bars\" role=\"img\" width=\"" + SvgDrawing.number(width)
                + "\" height=\"" + SvgDrawing.number(HEIGHT + 1) + "\" aria-label=\""
                + SvgDrawing.text(column.name() + ": " + all) + "\">");
        for (int index = 0; index < bars.size(); index++) {
            Bar bar = bars.get(index);
            double height = bar.rows() == 0 ? 0 : Math.max(1, bar.rows() * (HEIGHT - 2) / most);
            svg.append("<g><title>")
                    .append(SvgDrawing.text(bar.label()))
                    .append(": ")
                    .append(bar.rows())
                    .append(bar.rows() == 1 ? " row" : " rows")
                    .append("</title><rect class=\"rows\" x=\"")
                    .append(SvgDrawing.number(1 + index * (BAR + 2)))
                    .append("\" y=\"")
                    .append(SvgDrawing.number(HEIGHT - height))
                    .append("\" width=\"")
                    .append(SvgDrawing.number(BAR))
                    .append("\" height=\"")
                    .append(SvgDrawing.number(height))
                    .append("\"/></g>");
        }
        return svg.append("<line class=\"base\" x1=\"0\" x2=\"" + SvgDrawing.number(width) + "\" y1=\""
                        + SvgDrawing.number(HEIGHT) + "\" y2=\"" + SvgDrawing.number(HEIGHT) + "\"/></svg>")
                .toString();
    }
}
