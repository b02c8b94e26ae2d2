package dev.zeitkammer.engine;

import java.io.PrintWriter;
import java.io.StringWriter;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What must never be read by anybody: the passwords of the project in hand. Drivers repeat what they were given, decoded, cut or
 * in full, so that whatever is said is cleaned at the places through which all of it goes: exceptions, and what a program prints.
 */
public final class Secrets {

    private static final String HIDDEN = "(hidden)";

    /** Shorter texts are part of everything that is said. */
    private static final int SHORTEST = 3;

    /** A secret of so many letters is hidden wherever it stands. */
    private static final int LONG = 8;

    /** Words of which messages, logs and their keys are made: hidden everywhere they would give the password away. */
    private static final Set<String> SAID = Set.of(
            "above",
            "account",
            "after",
            "also",
            "and",
            "answer",
            "are",
            "base",
            "before",
            "begins",
            "but",
            "check",
            "clerk",
            "cluster",
            "column",
            "columns",
            "connect",
            "count",
            "counts",
            "database",
            "date",
            "delivery",
            "dimension",
            "does",
            "done",
            "ends",
            "engine",
            "error",
            "event",
            "exist",
            "fact",
            "facts",
            "failed",
            "file",
            "files",
            "folder",
            "for",
            "from",
            "given",
            "has",
            "have",
            "host",
            "input",
            "insert",
            "inserted",
            "key",
            "keys",
            "line",
            "load",
            "loader",
            "loads",
            "local",
            "lookup",
            "lookups",
            "main",
            "member",
            "message",
            "missing",
            "name",
            "names",
            "new",
            "none",
            "not",
            "note",
            "null",
            "number",
            "open",
            "password",
            "port",
            "project",
            "public",
            "query",
            "read",
            "row",
            "rows",
            "run",
            "running",
            "schema",
            "second",
            "seconds",
            "server",
            "set",
            "sql",
            "staged",
            "status",
            "step",
            "table",
            "tables",
            "test",
            "text",
            "that",
            "the",
            "there",
            "this",
            "time",
            "type",
            "update",
            "updated",
            "url",
            "user",
            "value",
            "values",
            "version",
            "warehouse",
            "was",
            "where",
            "with",
            "write",
            "written");

    private static final Set<String> KNOWN = ConcurrentHashMap.newKeySet();

    private static final Pattern PARAMETER = Pattern.compile(
            "(?i)([\\w.-]*(?:pass|pwd|secret|token|credential|apikey|authorization|cookie\\.)[\\w.-]*\\s*=\\s*)(?!\\(hidden\\))"
                    + "(\"[^\"]*\"|'[^']*'|(?:(?:bearer|basic)\\s+)?[^\\s&;,\"')]+)");
    private static final Pattern USER_INFO = Pattern.compile("//[^/\\s@]*:[^\\s@]*@(?:[^\\s@/]*@)*");
    private static final Pattern THIN = Pattern.compile("(:)[^:/@\\s]+/[^@\\s]+@");

    private Secrets() {}

    /** Keeps a secret from now on, as it is and as a URL may write it. */
    public static void keep(@Nullable String secret) {
        if (secret == null) {
            return;
        }
        for (String form : List.of(secret, decoded(secret))) {
            if (form.length() >= SHORTEST) {
                KNOWN.add(form);
            }
        }
    }

    /** Keeps what a URL holds of users and passwords. */
    public static void keepThoseOf(String url) {
        of(url).forEach(Secrets::keep);
    }

    /** Whether a URL holds what nobody may read. */
    public static boolean areIn(String url) {
        return !of(url).isEmpty();
    }

    private static List<String> of(String url) {
        List<String> found = new ArrayList<>();
        int at = url.replaceAll("[?;].*", "").lastIndexOf('@');
        int begin = url.indexOf("//");
        if (begin >= 0 && at > begin) {
            String user = url.substring(begin + 2, at);
            found.add(user.substring(user.indexOf(':') + 1));
        }
        Matcher thin = Pattern.compile(":[^:/@\\s]+/([^@\\s]+)@").matcher(url);
        while (begin < 0 && thin.find()) {
            found.add(thin.group(1));
        }
        Matcher parameter = PARAMETER.matcher(url);
        while (parameter.find()) {
            found.add(parameter.group(2));
        }
        return found;
    }

    /** A text without secrets. */
    public static String cleaned(@Nullable String text) {
        String cleaned = String.valueOf(text);
        for (String secret : KNOWN.stream()
                .sorted(Comparator.comparing(String::length).reversed())
                .toList()) {
            cleaned = isWord(secret) ? wordHidden(cleaned, secret) : cleaned.replace(secret, HIDDEN);
        }
        cleaned = PARAMETER.matcher(cleaned).replaceAll("$1" + HIDDEN);
        cleaned = USER_INFO.matcher(cleaned).replaceAll("//" + HIDDEN + "@");
        return cleaned.contains("jdbc:") || cleaned.contains("thin:")
                ? THIN.matcher(cleaned).replaceAll("$1" + HIDDEN + "@")
                : cleaned;
    }

    /** Whether a secret is made of a few letters, and may be part of a word that says something else. */
    private static boolean isWord(String secret) {
        return secret.length() < LONG && secret.chars().allMatch(Character::isLetter);
    }

    /** A word is hidden where it stands alone; one that messages are made of only where passwords stand, see {@link #PARAMETER}. */
    private static String wordHidden(String text, String secret) {
        return SAID.contains(secret)
                ? text
                : text.replaceAll("(?U)(?<!\\w)" + Pattern.quote(secret) + "(?!\\w)", HIDDEN);
    }

    /** The stack of a failure without secrets. */
    public static String stack(Throwable failure) {
        StringWriter text = new StringWriter();
        failure.printStackTrace(new PrintWriter(text, true));
        return cleaned(text.toString());
    }

    private static String decoded(String text) {
        try {
            return URLDecoder.decode(text, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException badCode) {
            return text;
        }
    }
}
