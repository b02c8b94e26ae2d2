package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * How a fact finds a member of a dimension, in a role.
 *
 * @param column the name of the column that holds the key
 * @param memberColumn the name of the column that holds the key that all versions of the member share, where that is stored too
 * @param match for each column of the dimension's business key, in its order, the staged column, or the expression over them,
 *     that holds the value
 * @param asOf the staged date or timestamp at which the version must be valid; empty: the current version
 * @param ended what a member becomes that was deleted, at the date or for now
 * @param standIns the keys that are stored where there is no member to point at
 */
public record Lookup(
        Word role,
        String column,
        Optional<String> memberColumn,
        Dimension dimension,
        List<Word> match,
        Optional<Word> asOf,
        Unmatched unmatched,
        Blank blank,
        BeforeFirst beforeFirst,
        Ended ended,
        StandIns standIns) {

    /** What a value that no member has becomes. */
    public enum Unmatched {
        /** The key of a reserved member. */
        STAND_IN,
        SET_ASIDE,
        PLACEHOLDER,
        WAIT,
        STOP
    }

    /** What a missing value becomes. */
    public enum Blank {
        /** The key of a reserved member. */
        STAND_IN,
        SET_ASIDE,
        STOP
    }

    /** What a date before the member's first version finds. */
    public enum BeforeFirst {
        FIRST,
        UNMATCHED
    }

    /** What a member that was deleted becomes. */
    public enum Ended {
        /** It is found as ever. */
        MATCH,
        /** The key of a reserved member. */
        STAND_IN,
        SET_ASIDE,
        STOP
    }

    /**
     * Keys of reserved members.
     *
     * @param unmatched for a value that no member has
     * @param blank for no value
     * @param ended for a member that was deleted
     */
    public record StandIns(long unmatched, long blank, long ended) {}

    public Lookup {
        match = List.copyOf(match);
    }

    /** Whether a value that no member has makes one. */
    public boolean makesMembers() {
        return dimension.kind() == Dimension.Kind.COMBINATION || unmatched == Unmatched.PLACEHOLDER;
    }

    /** Whether the key of a reserved member is stored where there is nobody, or no value, or a member that was deleted. */
    public boolean standsIn() {
        return unmatched == Unmatched.STAND_IN || blank == Blank.STAND_IN || ended == Ended.STAND_IN;
    }

    /** The name of the column that holds the key. */
    public String keyColumn() {
        return column;
    }

    /** The same, judged at another date. */
    public Lookup at(Optional<Word> date) {
        return new Lookup(
                role, column, memberColumn, dimension, match, date, unmatched, blank, beforeFirst, ended, standIns);
    }
}
