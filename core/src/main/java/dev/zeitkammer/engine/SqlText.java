package dev.zeitkammer.engine;

/** Lays out SQL for readers without changing what it says. */
public final class SqlText {

    private SqlText() {}

    /** The statement further to the right, but for lines that begin inside a literal, a quoted name or a comment. */
    public static String indented(String sql, int columns) {
        String margin = " ".repeat(columns);
        StringBuilder text = new StringBuilder(margin);
        String until = "";
        for (int index = 0; index < sql.length(); index++) {
            char character = sql.charAt(index);
            text.append(character);
            if (until.isEmpty()) {
                until = opened(sql, index);
                if (until.equals("*/") || until.startsWith("$")) {
                    String rest = sql.substring(index + 1, index + Math.max(2, until.length()));
                    text.append(rest);
                    index += rest.length();
                }
            } else if (sql.startsWith(until, index)) {
                text.append(until, 1, until.length());
                index += until.length() - 1;
                until = "";
            }
            if (character == '\n' && until.isEmpty()) {
                text.append(margin);
            }
        }
        return text.toString().stripTrailing();
    }

    /** What ends that which begins at a place and is no plain SQL; empty where nothing of that kind begins. */
    private static String opened(String sql, int index) {
        char character = sql.charAt(index);
        if (character == '\'' || character == '"') {
            return String.valueOf(character);
        }
        if (sql.startsWith("--", index)) {
            return "\n";
        }
        if (sql.startsWith("/*", index)) {
            return "*/";
        }
        int end = character == '$' ? sql.indexOf('$', index + 1) : -1;
        String tag = end < 0 ? "" : sql.substring(index, end + 1);
        return tag.matches("\\$\\w*\\$") && sql.indexOf(tag, end + 1) > 0 ? tag : "";
    }
}
