package dev.zeitkammer.cli.drawing;

import java.util.ArrayList;
import java.util.List;

/** A number as it went, as a line without axes. */
final class SparkLine {

    private static final double WIDTH = 120;
    private static final double HEIGHT = 16;

    private SparkLine() {}

    /**
     * The line, from nothing at its foot to the greatest number; empty where there are fewer than two.
     *
     * @param what what the numbers are of, for readers who do not see it
     * @param numbers the oldest first, on the left
     */
    static String of(String what, List<Double> numbers) {
        if (numbers.size() < 2) {
            return "";
        }
        double most = numbers.stream().mapToDouble(Double::doubleValue).max().orElse(0);
        double step = (WIDTH - 4) / (numbers.size() - 1);
        List<String> points = new ArrayList<>();
        for (int index = 0; index < numbers.size(); index++) {
            double share = most > 0 ? numbers.get(index) / most : 0;
            points.add(
                    SvgDrawing.number(2 + index * step) + "," + SvgDrawing.number(HEIGHT - 2 - share * (HEIGHT - 4)));
        }
        return "<svg class=\"bars\" role=\"img\" width=\"" + SvgDrawing.number(WIDTH) + "\" height=\""
                + SvgDrawing.number(HEIGHT) + "\" aria-label=\"" + SvgDrawing.text(what) + ": " + numbers.size()
                + " values, the newest " + SvgDrawing.number(numbers.get(numbers.size() - 1)) + ", the greatest "
                + SvgDrawing.number(most) + "\"><polyline class=\"time\" points=\"" + String.join(" ", points)
                + "\"/></svg>";
    }
}
