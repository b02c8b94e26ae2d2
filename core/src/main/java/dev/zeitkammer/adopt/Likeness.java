package dev.zeitkammer.adopt;

import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Pattern;

/** What the names of columns suggest in tables that others made; never more than a suggestion. */
final class Likeness {

    static final Pattern SURROGATE =
            Pattern.compile("(^|_)(sk|key|skey|surrogate|dwid|wid|id)$", Pattern.CASE_INSENSITIVE);
    static final Pattern BUSINESS_KEY =
            Pattern.compile("(^|_)(code|no|nr|num|number|bk|id|key)$", Pattern.CASE_INSENSITIVE);
    static final Pattern BEGIN = Pattern.compile(
            "valid_?from|eff(ective)?(_|$)|begin|start|from(_|$)|since|gueltig_?(von|ab)|(^|_)(von|ab)$",
            Pattern.CASE_INSENSITIVE);
    static final Pattern END = Pattern.compile(
            "valid_?to|until|expir|end(_|$|s$)|ends?_|thru|through|(^|_)to(_|$)|gueltig_?bis|(^|_)bis$",
            Pattern.CASE_INSENSITIVE);
    static final Pattern CURRENT =
            Pattern.compile("curr|activ|aktiv|aktuell|latest|newest|last_?row", Pattern.CASE_INSENSITIVE);
    static final Pattern VERSION = Pattern.compile("version|(^|_)(ver|seq|rev)(_|$)", Pattern.CASE_INSENSITIVE);
    static final Pattern DELETED = Pattern.compile("delet|remov|geloescht|cancel", Pattern.CASE_INSENSITIVE);
    static final Pattern INSERTED =
            Pattern.compile("(insert|creat|load|angelegt).*(at|on|date|time|ts|dt|dttm|am)$", Pattern.CASE_INSENSITIVE);
    static final Pattern UPDATED = Pattern.compile(
            "(updat|modif|chang|geaendert).*(at|on|date|time|ts|dt|dttm|am)$", Pattern.CASE_INSENSITIVE);

    private static final List<List<String>> YES_AND_NO = List.of(
            List.of("true", "false"),
            List.of("Y", "N"),
            List.of("y", "n"),
            List.of("J", "N"),
            List.of("YES", "NO"),
            List.of("Yes", "No"),
            List.of("yes", "no"),
            List.of("T", "F"),
            List.of("1", "0"),
            List.of("X", ""));

    private Likeness() {}

    static boolean is(Pattern pattern, String name) {
        return pattern.matcher(name).find();
    }

    /** The values for yes and no of which a column holds one or both. */
    static Optional<List<String>> yesAndNo(List<String> values) {
        return values.isEmpty()
                ? Optional.empty()
                : YES_AND_NO.stream().filter(pair -> pair.containsAll(values)).findFirst();
    }

    /** Whether a staged column is likely the source of one that stands: names are alike but for signs and the table's name. */
    static boolean areAlike(String standing, String staged, String owner) {
        String one = bare(standing);
        String other = bare(staged);
        String of = bare(owner);
        return one.equals(other) || one.equals(of + other) || other.equals(of + one);
    }

    private static String bare(String name) {
        return name.toLowerCase(Locale.ROOT).replaceAll("[^\\p{L}\\p{N}]", "");
    }
}
