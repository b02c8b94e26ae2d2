package dev.zeitkammer.definition;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * A stand-in row of a dimension, which facts point at where there is no member to point at.
 *
 * @param name how definitions call it: unknown, not-applicable, or a name of the definition's own
 * @param key its surrogate key, negative or 0
 * @param label what its text columns hold
 * @param values what a definition gives for some of its columns, by column
 */
public record ReservedMember(String name, long key, String label, Map<String, Word> values) {

    /** The member for a value that matches nobody. */
    public static final String UNKNOWN = "unknown";

    /** The member for no value. */
    public static final String NOT_APPLICABLE = "not-applicable";

    /** Whether a definition gives it a value for a column. */
    public boolean gives(String column) {
        return values.keySet().stream().anyMatch(column::equalsIgnoreCase);
    }

    public ReservedMember {
        values = Collections.unmodifiableMap(new LinkedHashMap<>(values));
    }
}
