package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.cli.drawing.Diagram.Box;
import dev.zeitkammer.cli.drawing.Diagram.Line;
import dev.zeitkammer.cli.drawing.Diagram.Row;

/** A diagram as Mermaid text, for pages that draw such texts. */
final class Mermaid {

    private Mermaid() {}

    /** Tables with their columns, and their relations. */
    static String stars(Diagram diagram) {
        StringBuilder text = new StringBuilder("erDiagram\n");
        for (Box box : diagram.boxes()) {
            text.append("    ")
                    .append(box.id())
                    .append("[\"")
                    .append(quoted(box.title()))
                    .append("\"] {\n");
            for (Row row : box.rows()) {
                boolean isName = row.name().matches("[A-Za-z][A-Za-z0-9_]*");
                text.append("        column ")
                        .append(isName ? row.name() : "_" + row.id())
                        .append(" \"")
                        .append(quoted((isName ? "" : row.name() + ": ") + meaning(row)))
                        .append("\"\n");
            }
            text.append("    }\n");
        }
        for (Line line : diagram.lines()) {
            text.append("    ")
                    .append(line.toBox())
                    .append(" ||--o{ ")
                    .append(line.fromBox())
                    .append(" : \"")
                    .append(quoted(line.label()))
                    .append("\"\n");
        }
        return text.toString();
    }

    /** Columns in boxes, and the ways between them. */
    static String lineage(Diagram diagram) {
        StringBuilder text = new StringBuilder("flowchart LR\n");
        for (Box box : diagram.boxes()) {
            text.append("    subgraph ")
                    .append(box.id())
                    .append("[\"")
                    .append(quoted(box.title()))
                    .append("\"]\n");
            box.rows()
                    .forEach(row -> text.append("        ")
                            .append(row.id())
                            .append("[\"")
                            .append(quoted(row.name()))
                            .append("\"]\n"));
            text.append("    end\n");
        }
        for (Line line : diagram.lines()) {
            text.append("    ").append(line.fromRow().orElse(line.fromBox()));
            if (line.dashed()) {
                text.append(" -. \"").append(quoted(line.label())).append("\" .-> ");
            } else {
                text.append(" --> ");
            }
            text.append(line.toRow().orElse(line.toBox())).append('\n');
        }
        return text.toString();
    }

    /** What a column is, with its mark where that says more. */
    private static String meaning(Row row) {
        return row.meaning().contains(row.mark()) ? row.meaning() : (row.mark() + " " + row.meaning()).strip();
    }

    /** A text between quotes: what would end it is written as its entity. */
    private static String quoted(String text) {
        return text.replace("#", "#35;").replace("\"", "#quot;").replace("\n", " ");
    }
}
