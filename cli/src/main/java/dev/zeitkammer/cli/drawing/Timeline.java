package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Conventions;
import dev.zeitkammer.view.MemberHistory;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** The versions of a member along time: a strip for each column, cut where its value changes. */
final class Timeline {

    private static final double LEFT = 150;
    private static final double STRIP = 26;
    private static final double TOP = 40;
    private static final double VERSION = 170;
    private static final double LETTER = 6.6;

    private final MemberHistory history;
    private final String title;

    Timeline(MemberHistory history, String title) {
        this.history = history;
        this.title = title;
    }

    /** @param styles looks to stand in the picture, where it is a file of its own; else empty */
    String svg(String styles) {
        Conventions conventions = history.dimension().conventions();
        Set<String> audit =
                Arrays.stream(AuditColumn.values()).map(conventions::column).collect(Collectors.toSet());
        List<Integer> shown = new ArrayList<>();
        for (int column = 0; column < history.columns().size(); column++) {
            if (!audit.contains(history.columns().get(column).name())) {
                shown.add(column);
            }
        }
        int versions = history.versions().size();
        double width = LEFT + versions * VERSION + 20;
        double height = TOP + shown.size() * STRIP + 16;
        StringBuilder svg =
                new StringBuilder("<svg xmlns=\"http://www.w3.org/2000/svg\" class=\"spans\" role=\"img\" width=\""
                        + SvgDrawing.number(width) + "\" height=\"" + SvgDrawing.number(height) + "\" viewBox=\"0 0 "
                        + SvgDrawing.number(width) + " " + SvgDrawing.number(height) + "\" aria-label=\""
                        + SvgDrawing.text(title)
                        + ", " + versions + (versions == 1 ? " version" : " versions") + "\">\n");
        svg.append("<title>").append(SvgDrawing.text(title)).append("</title>\n");
        if (!styles.isEmpty()) {
            svg.append("<style>").append(SvgDrawing.text(styles)).append("</style>\n");
        }
        int from = position(conventions.column(AuditColumn.VALID_FROM));
        int to = position(conventions.column(AuditColumn.VALID_TO));
        for (int version = 0; version < versions; version++) {
            double x = LEFT + version * VERSION;
            svg.append(text("label", x + 6, 16, "version " + (version + 1)));
            svg.append(text("date", x + 6, 32, from < 0 ? "" : period(version, from, to)));
        }
        for (int strip = 0; strip < shown.size(); strip++) {
            strip(svg, shown.get(strip), TOP + strip * STRIP);
        }
        return svg.append("</svg>\n").toString();
    }

    private String period(int version, int from, int to) {
        String begin = shown(history.versions().get(version).get(from));
        String end = to < 0 ? "" : shown(history.versions().get(version).get(to));
        return (begin.startsWith("0001-") ? "ever" : begin) + " – " + (end.startsWith("9999-") ? "" : end);
    }

    private int position(String name) {
        for (int column = 0; column < history.columns().size(); column++) {
            if (history.columns().get(column).name().equals(name)) {
                return column;
            }
        }
        return -1;
    }

    private void strip(StringBuilder svg, int column, double y) {
        svg.append(text(
                "label",
                8,
                y + 17,
                Arrangement.shortened(history.columns().get(column).name())));
        int begin = 0;
        for (int version = 1; version <= history.versions().size(); version++) {
            boolean ends = version == history.versions().size()
                    || !Objects.equals(value(version, column), value(version - 1, column));
            if (ends) {
                double x = LEFT + begin * VERSION;
                double width = (version - begin) * VERSION;
                svg.append("<g><title>")
                        .append(SvgDrawing.text(shown(value(begin, column))))
                        .append("</title><rect class=\"span")
                        .append(
                                history.changed()
                                                .get(begin)
                                                .contains(history.columns()
                                                        .get(column)
                                                        .name())
                                        ? " changed"
                                        : "")
                        .append("\" x=\"")
                        .append(SvgDrawing.number(x + 1))
                        .append("\" y=\"")
                        .append(SvgDrawing.number(y + 2))
                        .append("\" width=\"")
                        .append(SvgDrawing.number(width - 2))
                        .append("\" height=\"")
                        .append(SvgDrawing.number(STRIP - 4))
                        .append("\" rx=\"3\"/>")
                        .append(text("", x + 8, y + 17, fitting(shown(value(begin, column)), width)))
                        .append("</g>\n");
                begin = version;
            }
        }
    }

    private @Nullable Object value(int version, int column) {
        return history.versions().get(version).get(column);
    }

    private static String shown(@Nullable Object value) {
        return value == null ? "∅" : value.toString();
    }

    private static String fitting(String text, double width) {
        int most = (int) ((width - 16) / LETTER);
        return text.length() <= most ? text : text.substring(0, Math.max(1, most - 1)) + "…";
    }

    private static String text(String look, double x, double y, String text) {
        return "<text" + (look.isEmpty() ? "" : " class=\"" + look + "\"") + " x=\"" + SvgDrawing.number(x) + "\" y=\""
                + SvgDrawing.number(y) + "\">" + SvgDrawing.text(text) + "</text>\n";
    }
}
