package dev.zeitkammer.cli.drawing;

import java.util.List;
import java.util.Optional;

/**
 * Boxes with rows, and lines between them.
 *
 * @param title what the picture shows, for readers who do not see it
 */
record Diagram(String title, List<Box> boxes, List<Line> lines) {

    Diagram {
        boxes = List.copyOf(boxes);
        lines = List.copyOf(lines);
    }

    /**
     * A table, an input, or files.
     *
     * @param id unique in the page
     * @param kind the word for its kind, which its look goes by
     */
    record Box(String id, String kind, String title, List<Row> rows) {

        Box {
            rows = List.copyOf(rows);
        }
    }

    /**
     * A column.
     *
     * @param id unique in the page
     * @param mark a short word before the name, such as grain; empty for none
     * @param meaning what it is, in a sentence
     * @param full the name by which it is searched
     * @param standsFor the columns for which it stands, where there are too many to show
     */
    record Row(String id, String mark, String name, String meaning, String full, List<String> standsFor) {

        Row {
            standsFor = List.copyOf(standsFor);
        }
    }

    /**
     * A line from a box, or a row of it, to another one.
     *
     * @param fromRow the row of the first box that it leaves; empty: the box as a whole
     * @param toRow the row of the second box that it reaches; empty: the box as a whole
     * @param label what stands on it; empty for nothing
     * @param dashed whether it says something other than that a value goes along
     * @param leftwards whether it is drawn from right to left
     */
    record Line(
            String fromBox,
            Optional<String> fromRow,
            String toBox,
            Optional<String> toRow,
            String label,
            boolean dashed,
            boolean leftwards) {}
}
