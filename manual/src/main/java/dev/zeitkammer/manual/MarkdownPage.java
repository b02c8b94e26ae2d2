package dev.zeitkammer.manual;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.commonmark.Extension;
import org.commonmark.ext.gfm.tables.TablesExtension;
import org.commonmark.ext.heading.anchor.HeadingAnchorExtension;
import org.commonmark.ext.heading.anchor.IdGenerator;
import org.commonmark.node.AbstractVisitor;
import org.commonmark.node.Code;
import org.commonmark.node.CustomNode;
import org.commonmark.node.FencedCodeBlock;
import org.commonmark.node.Heading;
import org.commonmark.node.Image;
import org.commonmark.node.IndentedCodeBlock;
import org.commonmark.node.Link;
import org.commonmark.node.Node;
import org.commonmark.node.Paragraph;
import org.commonmark.node.SoftLineBreak;
import org.commonmark.node.Text;
import org.commonmark.parser.Parser;
import org.commonmark.renderer.html.HtmlRenderer;

/**
 * A page of the manual.
 *
 * @param file the name of its HTML
 * @param title the text of its first heading
 * @param body its HTML
 * @param contents links to its headings of the second level
 * @param sections for the search: page, heading, address and text of each section
 */
record MarkdownPage(String file, String title, String body, String contents, List<Map<String, String>> sections) {

    private static final List<Extension> EXTENSIONS =
            List.of(TablesExtension.create(), HeadingAnchorExtension.create());
    private static final Parser PARSER = Parser.builder().extensions(EXTENSIONS).build();
    private static final HtmlRenderer RENDERER = HtmlRenderer.builder()
            .extensions(EXTENSIONS)
            .escapeHtml(true)
            .attributeProviderFactory(context -> (node, tag, attributes) -> {
                if (tag.equals("pre")
                        && node instanceof FencedCodeBlock block
                        && block.getInfo().contains(" ")) {
                    attributes.put("data-file", block.getInfo().replaceFirst("\\S+ ", ""));
                }
            })
            .build();

    static MarkdownPage of(Path source) throws IOException {
        Node document = PARSER.parse(Files.readString(source));
        String name = source.getFileName().toString();
        Reader reader = new Reader(file(name));
        document.accept(reader);
        return new MarkdownPage(
                file(name), reader.title, RENDERER.render(document), reader.contents.toString(), reader.sections());
    }

    /** The HTML of a page. */
    private static String file(String markdown) {
        return markdown.equals("README.md") ? "index.html" : markdown.replaceFirst("\\.md$", ".html");
    }

    /** Gathers headings and texts, and turns links between pages of Markdown into links between pages of HTML. */
    private static final class Reader extends AbstractVisitor {

        private final String file;
        private final IdGenerator ids = IdGenerator.builder().build();
        private final StringBuilder contents = new StringBuilder();
        private final List<Map<String, String>> sections = new ArrayList<>();
        private String title = "";
        private StringBuilder text = new StringBuilder();

        private Reader(String file) {
            this.file = file;
        }

        private List<Map<String, String>> sections() {
            close();
            return List.copyOf(sections);
        }

        private void close() {
            if (!sections.isEmpty()) {
                sections.get(sections.size() - 1)
                        .put("text", text.toString().replaceAll("\\s+", " ").strip());
            }
            text = new StringBuilder();
        }

        @Override
        public void visit(Heading heading) {
            close();
            visitChildren(heading);
            String words = text.toString();
            text = new StringBuilder();
            String id = ids.generateId(words);
            if (heading.getLevel() == 1) {
                title = words;
            } else if (heading.getLevel() == 2) {
                contents.append("<a href=\"#")
                        .append(id)
                        .append("\">")
                        .append(escaped(words))
                        .append("</a>\n");
            }
            Map<String, String> section = new LinkedHashMap<>();
            section.put("page", title);
            section.put("heading", words);
            section.put("address", file + "#" + id);
            sections.add(section);
        }

        private static String escaped(String words) {
            return words.replace("&", "&amp;").replace("<", "&lt;");
        }

        @Override
        public void visit(Link link) {
            String to = link.getDestination();
            boolean isOutside = to.startsWith("../") || to.matches("(CONTRIBUTING|CHANGELOG)\\.md|bench/.*");
            if (isOutside) {
                unlink(link);
            } else if (!to.contains("://")) {
                String[] parts = to.replaceFirst("^docs/", "").split("#", 2);
                String page = parts[0].endsWith(".md") ? file(parts[0]) : parts[0];
                link.setDestination(page + (parts.length > 1 ? "#" + parts[1] : ""));
                if (link.getFirstChild() instanceof Text words) {
                    words.setLiteral(words.getLiteral().replaceFirst("\\.md$", ""));
                }
            }
            visitChildren(link);
        }

        /** What lies outside the manual is named, and not linked. */
        private void unlink(Link link) {
            for (Node child = link.getFirstChild(); child != null; child = link.getFirstChild()) {
                link.insertBefore(child);
            }
            link.unlink();
        }

        @Override
        public void visit(Image image) {
            image.setDestination(image.getDestination().replaceFirst("^docs/", ""));
            visitChildren(image);
        }

        @Override
        public void visit(Text node) {
            text.append(node.getLiteral());
        }

        @Override
        public void visit(Code node) {
            text.append(node.getLiteral());
        }

        @Override
        public void visit(SoftLineBreak node) {
            text.append(' ');
        }

        @Override
        public void visit(Paragraph node) {
            text.append(' ');
            visitChildren(node);
        }

        @Override
        public void visit(CustomNode node) {
            text.append(' ');
            visitChildren(node);
        }

        @Override
        public void visit(FencedCodeBlock node) {
            text.append(' ').append(node.getLiteral());
        }

        @Override
        public void visit(IndentedCodeBlock node) {
            text.append(' ').append(node.getLiteral());
        }
    }
}
