package dev.zeitkammer.step;

import dev.zeitkammer.engine.Relation;
import java.util.List;

/**
 * How to read off the change table, before it is applied, which values change.
 *
 * @param attributes the columns that are compared
 * @param pairs a query of {@code zk_member} (the key as text), {@code zk_causes} ({@code new version} or {@code in place}) and,
 *     for the attribute number i, {@code zk_old_i} and {@code zk_new_i} as texts
 */
public record Differences(List<String> attributes, String pairs) {

    /** The pairs where they are kept. */
    public static final Relation TABLE = Relation.of(
            "zk_pairs",
            "A row that changes, with the old and the new value of each attribute.",
            "zk_member",
            "zk_causes",
            "zk_old_*",
            "zk_new_*");

    /** Where nothing can change. */
    public static final Differences NONE = new Differences(List.of(), "");

    public Differences {
        attributes = List.copyOf(attributes);
    }
}
