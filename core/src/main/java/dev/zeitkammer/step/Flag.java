package dev.zeitkammer.step;

import dev.zeitkammer.engine.Relation;

/**
 * Something that is either so or not in a delivery, and on which it depends whether a step has anything to do. A load asks
 * several in one query: see {@link Step.Ask}.
 *
 * @param sql a condition that stands for itself, such as {@code exists (…)}
 */
public record Flag(String sql) {

    /** Whether a relation has rows. */
    public static Flag any(Relation relation) {
        return exists("select 1 from " + relation);
    }

    /** Whether a relation has rows that meet a condition. */
    public static Flag any(Relation relation, String condition) {
        return exists("select 1 from " + relation + " where " + condition);
    }

    /** Whether a query gives rows. */
    public static Flag exists(String query) {
        return new Flag("exists (" + query + ")");
    }

    /** Whether one of two is so. */
    public Flag or(Flag other) {
        return new Flag("(" + sql + " or " + other.sql + ")");
    }
}
