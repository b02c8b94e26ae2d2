package dev.zeitkammer.step;

import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;

/**
 * The changes of one attribute that a load would make.
 *
 * @param count the number of rows concerned
 * @param values some of them, in order of the key
 */
public record ChangedAttribute(String table, String attribute, long count, List<ChangedValue> values) {

    /** So many values of an attribute are told. */
    public static final int SOME = 10;

    public ChangedAttribute {
        values = List.copyOf(values);
    }

    /** Each attribute of a table once, the most frequent first; what its rows, a feed and members that came change is added up. */
    public static List<ChangedAttribute> together(List<ChangedAttribute> changed) {
        Map<String, ChangedAttribute> byName = new LinkedHashMap<>();
        changed.forEach(each -> byName.merge(each.attribute(), each, ChangedAttribute::and));
        return byName.values().stream()
                .sorted(Comparator.comparing(ChangedAttribute::count).reversed())
                .toList();
    }

    private ChangedAttribute and(ChangedAttribute other) {
        return new ChangedAttribute(
                table,
                attribute,
                count + other.count,
                Stream.concat(values.stream(), other.values.stream())
                        .limit(SOME)
                        .toList());
    }
}
