package dev.zeitkammer.cli.drawing;

import dev.zeitkammer.cli.drawing.Diagram.Box;
import dev.zeitkammer.cli.drawing.Diagram.Line;
import dev.zeitkammer.cli.drawing.Diagram.Row;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.apache.commons.text.StringSubstitutor;

/** A page of its own: everything that it needs stands in it, and it asks for nothing from anywhere. */
final class Page {

    /** By this a file is known for one that may be replaced. */
    static final String MADE = "content=\"zeitkammer\"";

    private final String title;
    private final List<Section> sections = new ArrayList<>();

    private record Section(String id, String name, String content) {}

    Page(String title) {
        this.title = title;
    }

    /** Adds a part; its id is what a link to it names. */
    Page with(String id, String name, String hint, String content) {
        sections.add(new Section(
                id,
                name,
                "<section id=\"" + id + "\" aria-label=\"" + SvgDrawing.text(name) + "\">\n<h2>" + SvgDrawing.text(name)
                        + "</h2>\n<p class=\"hint\">" + SvgDrawing.text(hint) + "</p>\n" + content + "</section>\n"));
        return this;
    }

    /** A diagram with what it says in words. */
    static String diagram(Diagram diagram) {
        return "<div class=\"canvas\" tabindex=\"0\" aria-label=\"" + SvgDrawing.text(diagram.title()) + "\">\n"
                + SvgDrawing.of(Arrangement.of(diagram)) + "</div>\n" + inWords(diagram);
    }

    private static String inWords(Diagram diagram) {
        Map<String, String> names = new HashMap<>();
        for (Box box : diagram.boxes()) {
            names.put(box.id(), box.title());
            for (Row row : box.rows()) {
                names.put(row.id(), row.full());
            }
        }
        StringBuilder words = new StringBuilder("<details><summary>In words</summary><ul>\n");
        for (Line line : diagram.lines()) {
            words.append("<li>")
                    .append(SvgDrawing.text(names.get(line.fromRow().orElse(line.fromBox()))))
                    .append(" → ")
                    .append(SvgDrawing.text(names.get(line.toRow().orElse(line.toBox()))))
                    .append(line.label().isEmpty() ? "" : " (" + SvgDrawing.text(line.label()) + ")")
                    .append("</li>\n");
        }
        return words.append("</ul></details>\n").toString();
    }

    String html() {
        StringBuilder links = new StringBuilder();
        StringBuilder content = new StringBuilder();
        for (Section section : sections) {
            links.append("<a href=\"#")
                    .append(section.id())
                    .append("\">")
                    .append(SvgDrawing.text(section.name()))
                    .append("</a>");
            content.append(section.content());
        }
        Map<String, String> places = Map.of(
                "title", SvgDrawing.text(title),
                "styles", resource("diagram.css") + resource("page.css"),
                "links", links.toString(),
                "sections", content.toString(),
                "script", resource("page.js"));
        return new StringSubstitutor(places)
                .setDisableSubstitutionInValues(true)
                .setEnableUndefinedVariableException(true)
                .replace(resource("page.html"));
    }

    static String resource(String name) {
        try (InputStream in = Page.class.getResourceAsStream("/drawing/" + name)) {
            if (in == null) {
                throw new IllegalStateException("the program lacks drawing/" + name);
            }
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }
}
