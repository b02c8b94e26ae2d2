package dev.zeitkammer.step;

import java.util.List;

/**
 * The changes of one attribute that a load would make.
 *
 * @param count the number of rows concerned
 * @param values some of them, in order of the key
 */
public record ChangedAttribute(String table, String attribute, long count, List<ChangedValue> values) {

    public ChangedAttribute {
        values = List.copyOf(values);
    }
}
