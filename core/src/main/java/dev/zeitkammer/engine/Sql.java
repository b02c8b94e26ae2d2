package dev.zeitkammer.engine;

import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import org.apache.commons.text.StringSubstitutor;

/**
 * A text of SQL with named places, written as one reads it: {@code ${name}} is replaced by a value. A value that stands alone at
 * the beginning of a line is moved as far to the right as its place, line by line.
 */
public final class Sql {

    private static final Pattern BEGINS_LINE = Pattern.compile("(?m)^( +)\\$\\{(\\w+)}");
    private static final char MOVED = '@';
    private static final String SCRATCH = "zk_";

    private final String template;
    private final Map<String, String> values = new HashMap<>();

    private Sql(String template) {
        this.template = template;
    }

    public static Sql of(String template) {
        return new Sql(template);
    }

    /**
     * What stands at a place.
     *
     * @throws IllegalStateException when the name was given before
     */
    public Sql with(String name, Object value) {
        if (values.put(name, String.valueOf(value)) != null) {
            throw new IllegalStateException("${" + name + "} is given twice");
        }
        return this;
    }

    /** Scratch relations, each at the place of its name without the beginning that all of them share. */
    public Sql with(Relation... relations) {
        for (Relation relation : relations) {
            with(relation.name().substring(SCRATCH.length()), relation.name());
        }
        return this;
    }

    /**
     * The text.
     *
     * @throws IllegalArgumentException when a place has no value
     * @throws IllegalStateException when a value has no place
     */
    public String text() {
        Set<String> unused = new HashSet<>(values.keySet());
        String moving = BEGINS_LINE.matcher(template).replaceAll(Sql::moved);
        StringSubstitutor substitutor = new StringSubstitutor(place -> {
            int at = place.indexOf(MOVED);
            String name = at < 0 ? place : place.substring(0, at);
            unused.remove(name);
            String value = values.get(name);
            return at < 0 || value == null ? value : SqlText.indented(value, Integer.parseInt(place.substring(at + 1)));
        });
        substitutor.setEnableUndefinedVariableException(true);
        substitutor.setDisableSubstitutionInValues(true);
        substitutor.setValueDelimiterMatcher(null);
        substitutor.setEscapeChar(Character.MAX_VALUE);
        String text = substitutor.replace(moving);
        if (!unused.isEmpty()) {
            throw new IllegalStateException("There is no place for " + unused + " in: " + template);
        }
        return text;
    }

    private static String moved(MatchResult found) {
        return "\\${" + found.group(2) + MOVED + found.group(1).length() + "}";
    }
}
