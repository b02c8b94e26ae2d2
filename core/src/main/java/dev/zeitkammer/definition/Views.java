package dev.zeitkammer.definition;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/**
 * The views of a dimension.
 *
 * @param current the name of a view of the current versions only
 * @param roles names of views under the names of a role, by role
 */
public record Views(Optional<Word> current, Map<String, Word> roles) {

    public static final Views NONE = new Views(Optional.empty(), Map.of());

    public Views {
        roles = Collections.unmodifiableMap(new LinkedHashMap<>(roles));
    }
}
