package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.cli.drawing.Arrangement.Placed;
import dev.zeitkammer.cli.drawing.Arrangement.Point;
import dev.zeitkammer.cli.drawing.Diagram.Line;
import dev.zeitkammer.cli.drawing.Diagram.Row;
import java.util.List;
import java.util.Locale;
import org.apache.commons.text.StringEscapeUtils;

/** A diagram as SVG. Kinds differ by their shapes too, not by colours alone. */
final class SvgDrawing {

    private static final double BEND = 6;

    /** The end of a line in an attribute; one that is written as it is becomes a space. */
    private static final String LINE = "&#10;";

    private final StringBuilder svg = new StringBuilder();

    private SvgDrawing() {}

    /** The picture as an element of a page, which brings its looks. */
    static String of(Arrangement arrangement) {
        SvgDrawing drawing = new SvgDrawing();
        drawing.draw(arrangement, "");
        return drawing.svg.toString();
    }

    /** The picture as a file of its own. */
    static String file(Arrangement arrangement, String styles) {
        SvgDrawing drawing = new SvgDrawing();
        drawing.svg.append("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
        drawing.draw(arrangement, "<style>" + StringEscapeUtils.escapeXml10(styles) + "</style>\n");
        return drawing.svg.toString();
    }

    private void draw(Arrangement arrangement, String styles) {
        add(
                "<svg xmlns=\"http://www.w3.org/2000/svg\" class=\"diagram\" role=\"group\" aria-label=\"%s\" width=\"%s\""
                        + " height=\"%s\" viewBox=\"0 0 %s %s\">\n",
                text(arrangement.diagram().title()),
                number(arrangement.width()),
                number(arrangement.height()),
                number(arrangement.width()),
                number(arrangement.height()));
        svg.append("<title>").append(text(arrangement.diagram().title())).append("</title>\n");
        svg.append(styles);
        List<Line> lines = arrangement.diagram().lines();
        for (int index = 0; index < lines.size(); index++) {
            line(lines.get(index), arrangement.lines().get(index));
        }
        arrangement.boxes().forEach(this::box);
        svg.append("</svg>\n");
    }

    private void line(Line line, List<Point> points) {
        add(
                "<path class=\"line%s\"%s data-from=\"%s\" data-to=\"%s\" d=\"%s\"><title>%s</title></path>\n",
                line.dashed() ? " dashed" : "",
                line.leftwards() ? " data-leftwards=\"\"" : "",
                line.fromRow().orElse(line.fromBox()),
                line.toRow().orElse(line.toBox()),
                path(points),
                text(line.label()));
    }

    /** Right angles, with corners that are cut off a little, so that an eye can follow. */
    private static String path(List<Point> points) {
        StringBuilder path = new StringBuilder();
        for (int index = 0; index < points.size(); index++) {
            Point point = points.get(index);
            if (index == 0) {
                path.append("M").append(at(point));
            } else if (index == points.size() - 1) {
                path.append("L").append(at(point));
            } else {
                path.append("L").append(at(towards(point, points.get(index - 1))));
                path.append("Q").append(at(point)).append(' ').append(at(towards(point, points.get(index + 1))));
            }
        }
        return path.toString();
    }

    private static Point towards(Point corner, Point other) {
        double x = other.x() - corner.x();
        double y = other.y() - corner.y();
        double length = Math.hypot(x, y);
        double part = length == 0 ? 0 : Math.min(BEND, length / 2) / length;
        return new Point(corner.x() + x * part, corner.y() + y * part);
    }

    private static String at(Point point) {
        return number(point.x()) + " " + number(point.y());
    }

    private void box(Placed placed) {
        String kind = placed.box().kind().replace(' ', '-');
        add(
                "<g class=\"box %s\" id=\"%s\" data-x=\"%s\" data-y=\"%s\" data-w=\"%s\">\n",
                kind, placed.box().id(), number(placed.x()), number(placed.y()), number(placed.width()));
        boolean isSquare = kind.equals("fact");
        add(
                "<rect class=\"frame\" x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\" rx=\"%s\"/>\n",
                number(placed.x()),
                number(placed.y()),
                number(placed.width()),
                number(placed.height()),
                isSquare ? "0" : "9");
        if (isSquare) {
            add(
                    "<rect class=\"second\" x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\"/>\n",
                    number(placed.x() - 4),
                    number(placed.y() - 4),
                    number(placed.width() + 8),
                    number(placed.height() + 8));
        }
        add(
                "<g class=\"head\" tabindex=\"0\" role=\"button\" aria-expanded=\"true\" aria-label=\"%s %s, %d columns\">"
                        + "<rect class=\"target\" x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\"/>"
                        + "<text class=\"title\" x=\"%s\" y=\"%s\">%s</text><text class=\"kind\" x=\"%s\" y=\"%s\">%s</text></g>\n",
                text(placed.box().kind()),
                text(placed.box().title()),
                placed.box().rows().size(),
                number(placed.x()),
                number(placed.y()),
                number(placed.width()),
                number(Arrangement.HEAD - 4),
                number(placed.x() + 12),
                number(placed.y() + 15),
                text(Arrangement.shortened(placed.box().title())),
                number(placed.x() + 12),
                number(placed.y() + 27),
                text(placed.box().kind()));
        for (int row = 0; row < placed.box().rows().size(); row++) {
            row(placed, row, placed.box().rows().get(row));
        }
        svg.append("</g>\n");
    }

    private void row(Placed placed, int place, Row row) {
        double middle = placed.middle(place);
        add(
                "<g class=\"row\" id=\"%s\" tabindex=\"-1\" role=\"button\" data-full=\"%s\"%s aria-label=\"%s\">"
                        + "<title>%s</title><rect class=\"target\" x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\"/>"
                        + "<text class=\"name\" x=\"%s\" y=\"%s\">%s</text>%s</g>\n",
                row.id(),
                text(row.full()),
                row.standsFor().isEmpty()
                        ? ""
                        : " data-more=\""
                                + text(String.join("\n", row.standsFor())).replace("\n", LINE) + "\"",
                text(row.full() + (row.meaning().isEmpty() ? "" : ", " + row.meaning())),
                text(row.full() + (row.meaning().isEmpty() ? "" : ": " + row.meaning())),
                number(placed.x() + 2),
                number(middle - Arrangement.ROW / 2),
                number(placed.width() - 4),
                number(Arrangement.ROW),
                number(placed.x() + 12),
                number(middle + 4),
                text(Arrangement.shortened(row.name())),
                row.mark().isEmpty()
                        ? ""
                        : "<text class=\"mark\" text-anchor=\"end\" x=\"" + number(placed.x() + placed.width() - 10)
                                + "\" y=\"" + number(middle + 4) + "\">" + text(row.mark()) + "</text>");
    }

    private void add(String format, Object... values) {
        svg.append(String.format(Locale.ROOT, format, values));
    }

    static String text(String text) {
        return StringEscapeUtils.escapeXml10(text);
    }

    static String number(double value) {
        String shown = String.format(Locale.ROOT, "%.1f", value);
        return shown.endsWith(".0") ? shown.substring(0, shown.length() - 2) : shown;
    }
}
