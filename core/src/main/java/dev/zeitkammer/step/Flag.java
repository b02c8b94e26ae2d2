package dev.zeitkammer.step;

import dev.zeitkammer.engine.Relation;
import java.util.List;
import java.util.Optional;

/**
 * Something that is either so or not in a delivery, and on which it depends whether a step has anything to do. A load asks
 * several in one query: see {@link Step.Ask}.
 *
 * @param sql a condition that stands for itself, such as {@code exists (…)}
 * @param of the relation without whose rows it is not so
 * @param isAny whether it is so as soon as that relation has rows
 * @param parts those of which one must be so, where it is made of others
 */
public record Flag(String sql, Optional<Relation> of, boolean isAny, List<Flag> parts) {

    public Flag {
        parts = List.copyOf(parts);
    }

    public Flag(String sql) {
        this(sql, Optional.empty(), false, List.of());
    }

    /** Whether a relation has rows. */
    public static Flag any(Relation relation) {
        return new Flag("exists (select 1 from " + relation + ")", Optional.of(relation), true, List.of());
    }

    /** Whether a relation has rows that meet a condition. */
    public static Flag any(Relation relation, String condition) {
        return new Flag(
                "exists (select 1 from " + relation + " where " + condition + ")",
                Optional.of(relation),
                false,
                List.of());
    }

    /** Whether a query gives rows. */
    public static Flag exists(String query) {
        return new Flag("exists (" + query + ")");
    }

    /** Whether one of two is so. */
    public Flag or(Flag other) {
        return new Flag("(" + sql + " or " + other.sql + ")", Optional.empty(), false, List.of(this, other));
    }
}
