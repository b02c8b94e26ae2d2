package dev.zeitkammer.engine;

import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

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

    /** 1 where a condition holds, else 0. */
    public static String flag(String condition) {
        return "case when " + condition + " then 1 else 0 end";
    }

    /**
     * A query of several numbers: a row for each, with its place and its value. In one row each subquery would be one more relation
     * to join, and planners try all orders of up to a dozen: longer than everything else that a small load asks.
     */
    public static String numbers(List<String> expressions) {
        return IntStream.range(0, expressions.size())
                .mapToObj(nth -> "select " + nth + " as zk_nth, " + expressions.get(nth) + " as zk_number")
                .collect(Collectors.joining("\nunion all\n"));
    }

    /**
     * Why a text is not one expression, in words: it would end the statement around it, or go on behind it. Empty where it is
     * one as far as signs tell; whether it means something the engine says.
     */
    public static Optional<String> fault(String sql) {
        int open = 0;
        int index = 0;
        while (index < sql.length()) {
            char character = sql.charAt(index);
            String until = opened(sql, index);
            if (!until.isEmpty()) {
                int end = end(sql, index, until);
                if (end < 0 && !until.equals("\n")) {
                    return Optional.of("what begins with " + sql.charAt(index) + " is never closed");
                }
                index = end < 0 ? sql.length() : end + until.length();
                continue;
            }
            open += character == '(' ? 1 : character == ')' ? -1 : 0;
            if (character == ';') {
                return Optional.of("a semicolon ends a statement, and this is part of one");
            }
            if (open < 0) {
                return Optional.of("a parenthesis is closed that was not opened");
            }
            index++;
        }
        return open > 0 ? Optional.of("a parenthesis is never closed") : Optional.empty();
    }

    /** Where that ends which began at a place; in texts like E'\'' a backslash takes the next sign along. */
    private static int end(String sql, int begin, String until) {
        boolean escapes = until.equals("'")
                && begin > 0
                && "eE".indexOf(sql.charAt(begin - 1)) >= 0
                && (begin == 1 || !Character.isJavaIdentifierPart(sql.charAt(begin - 2)));
        int from = begin + Math.max(1, until.length() > 1 ? 2 : 1);
        if (until.startsWith("$")) {
            from = begin + until.length();
        }
        for (int index = from; index < sql.length(); index++) {
            if (escapes && sql.charAt(index) == '\\') {
                index++;
            } else if (sql.startsWith(until, index)) {
                return index;
            }
        }
        return -1;
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
