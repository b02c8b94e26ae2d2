package dev.zeitkammer.profile;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.regex.Pattern;

/** The text of a definition that is drafted: lines with what each guess is built on behind them, and names as YAML takes them. */
public final class DraftText {

    private static final int COMMENT_COLUMN = 44;
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Pattern CONTROL = Pattern.compile("[\\p{Cc}\\p{Zl}\\p{Zp}]");
    private static final Pattern UNSEEN = Pattern.compile("[\\p{Cc}\\p{Cf}\\p{Zl}\\p{Zp}\\p{Cs}]");

    private final StringBuilder text = new StringBuilder();

    /** A line with its comment behind it; above it, where there is no room. */
    public DraftText line(String content, String said) {
        String comment = CONTROL.matcher(said).replaceAll(" ");
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

    /** A text in double quotes as YAML takes it: as JSON writes it, and with signs that nobody sees by their numbers. */
    public static String quoted(String text) {
        try {
            return UNSEEN.matcher(JSON.writeValueAsString(text))
                    .replaceAll(
                            unseen -> "\\\\u%04x".formatted((int) unseen.group().charAt(0)));
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    @Override
    public String toString() {
        return text.toString();
    }
}
