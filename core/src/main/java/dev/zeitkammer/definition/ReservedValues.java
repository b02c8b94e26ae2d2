package dev.zeitkammer.definition;

import java.util.Map;

/**
 * Values of the reserved members that a definition gives, by column; elsewhere they are "Unknown" and "Not applicable".
 */
public record ReservedValues(Map<String, Word> unknown, Map<String, Word> notApplicable) {

    static final ReservedValues NONE = new ReservedValues(Map.of(), Map.of());

    public ReservedValues {
        unknown = Map.copyOf(unknown);
        notApplicable = Map.copyOf(notApplicable);
    }
}
