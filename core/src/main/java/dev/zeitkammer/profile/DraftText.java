package dev.zeitkammer.profile;

import dev.zeitkammer.engine.SqlType;
import java.util.List;

/** The text of a definition that is drafted: lines with what each guess is built on behind them, and names as YAML takes them. */
public final class DraftText {

    private static final int COMMENT_COLUMN = 44;

    private final StringBuilder text = new StringBuilder();

    /** A line with its comment behind it; above it, where there is no room. */
    public DraftText line(String content, String comment) {
        String indent =
                content.substring(0, content.length() - content.stripLeading().length());
        if (comment.isEmpty()) {
            text.append(content).append('\n');
        } else if (content.length() < COMMENT_COLUMN) {
            text.append(content)
                    .append(" ".repeat(COMMENT_COLUMN - content.length()))
                    .append("# ")
                    .append(comment)
                    .append('\n');
        } else {
            text.append(indent)
                    .append("# ")
                    .append(comment)
                    .append('\n')
                    .append(content)
                    .append('\n');
        }
        return this;
    }

    /** A line of which nothing is to be said. */
    public DraftText line(String content) {
        return line(content, "");
    }

    /** Takes the last line away. */
    void withoutLast(String line) {
        text.setLength(text.length() - line.length() - 1);
    }

    /** A type as YAML takes it. */
    public static String typeName(SqlType type) {
        String written = type.toString();
        return written.contains(",") ? '"' + written + '"' : written;
    }

    /** One name, or several in brackets. */
    public static String list(List<String> names) {
        return names.size() == 1
                ? scalar(names.get(0))
                : "[" + String.join(", ", names.stream().map(DraftText::scalar).toList()) + "]";
    }

    /** A name as YAML takes it. */
    public static String scalar(String name) {
        return name.matches("[\\p{L}_][\\p{L}\\p{N}_]*") ? name : quoted(name);
    }

    /** A text in double quotes as YAML takes it. */
    public static String quoted(String text) {
        return '"' + text.replace("\\", "\\\\").replace("\"", "\\\"") + '"';
    }

    @Override
    public String toString() {
        return text.toString();
    }
}
