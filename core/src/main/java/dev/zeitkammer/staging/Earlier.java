package dev.zeitkammer.staging;

import dev.zeitkammer.engine.SqlType;
import java.util.Map;
import java.util.function.Function;

/**
 * What earlier loads left that a staging goes by.
 *
 * @param types the types that earlier deliveries of an input decided, by its name
 * @param marks the greatest loaded values of running columns, by input, as texts
 */
public record Earlier(Function<String, Map<String, SqlType>> types, Map<String, String> marks) {

    /** Nothing was loaded before. */
    public static final Earlier NOTHING = new Earlier(input -> Map.of(), Map.of());
}
