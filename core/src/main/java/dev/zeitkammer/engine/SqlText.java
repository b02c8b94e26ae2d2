package dev.zeitkammer.engine;

import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Lays out SQL for readers without changing what it says. */
public final class SqlText {

    /** Deeper than anybody writes, and shallow enough for parsers that call themselves. */
    private static final int MOST_NESTED = 200;

    private static final Pattern FIRST_WORD =
            Pattern.compile("(?:\\s|--[^\\n]*\\n|/\\*.*?\\*/)*(\\w+)", Pattern.DOTALL);
    private static final Set<String> ENDS_TRANSACTIONS =
            Set.of("commit", "rollback", "begin", "start", "end", "abort", "savepoint", "release", "prepare");
    private static final Pattern TAG = Pattern.compile("\\$\\w*\\$");

    private SqlText() {}

    /** The statement further to the right, but for lines that begin inside a literal, a quoted name or a comment. */
    public static String indented(String sql, int columns) {
        String margin = " ".repeat(columns);
        StringBuilder text = new StringBuilder(margin);
        int copied = 0;
        int index = 0;
        while (index < sql.length()) {
            if (sql.charAt(index) == '\n') {
                text.append(sql, copied, index + 1).append(margin);
                copied = index + 1;
                index++;
            } else {
                index = behind(sql, index);
            }
        }
        return text.append(sql, copied, sql.length()).toString().stripTrailing();
    }

    /** The place behind a literal, a quoted name or a comment that begins at a place, else behind the sign that stands there. */
    private static int behind(String sql, int index) {
        String until = opened(sql, index);
        if (until.isEmpty()) {
            return index + 1;
        }
        int end = end(sql, index, until);
        if (end < 0) {
            return sql.length();
        }
        return until.equals("\n") ? end : end + until.length();
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
        return fault(sql, "a semicolon ends a statement, and this is part of one");
    }

    /**
     * Why a text is not one statement that can be part of a transaction, in words; empty where it is as far as signs tell.
     */
    public static Optional<String> faultOfStatement(String sql) {
        Matcher first = FIRST_WORD.matcher(sql);
        if (first.lookingAt() && ENDS_TRANSACTIONS.contains(first.group(1).toLowerCase(Locale.ROOT))) {
            return Optional.of("\"" + first.group(1).toLowerCase(Locale.ROOT)
                    + "\" begins or ends a transaction, which only the load does");
        }
        return fault(sql, "it holds several statements; make a step of each");
    }

    private static Optional<String> fault(String sql, String semicolon) {
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
                return Optional.of(semicolon);
            }
            if (open > MOST_NESTED) {
                return Optional.of("its parentheses are nested more than " + MOST_NESTED + " deep");
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
        if (!escapes) {
            return sql.indexOf(until, from);
        }
        for (int index = from; index < sql.length(); index++) {
            if (sql.charAt(index) == '\\') {
                index++;
            } else if (sql.startsWith(until, index)) {
                return index;
            }
        }
        return -1;
    }

    /** What ends that which begins at a place and is no plain SQL; empty where nothing of that kind begins. */
    private static String opened(String sql, int index) {
        return switch (sql.charAt(index)) {
            case '\'' -> "'";
            case '"' -> "\"";
            case '-' -> sql.startsWith("--", index) ? "\n" : "";
            case '/' -> sql.startsWith("/*", index) ? "*/" : "";
            case '$' -> tag(sql, index);
            default -> "";
        };
    }

    /** A pair of dollars with or without a word between them, which stands once more further on; empty where there is none. */
    private static String tag(String sql, int index) {
        int end = sql.indexOf('$', index + 1);
        String tag = end < 0 ? "" : sql.substring(index, end + 1);
        return TAG.matcher(tag).matches() && sql.indexOf(tag, end + 1) > 0 ? tag : "";
    }
}
