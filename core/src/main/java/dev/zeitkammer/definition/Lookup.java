package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * How a fact finds a member of a dimension, in a role.
 *
 * @param match for each column of the dimension's business key, in its order, the staged column that holds the value
 * @param asOf the staged date or timestamp at which the version must be valid; empty: the current version
 */
public record Lookup(
        Word role,
        Dimension dimension,
        List<Word> match,
        Optional<Word> asOf,
        Unmatched unmatched,
        Blank blank,
        BeforeFirst beforeFirst) {

    /** What a value that no member has becomes. */
    public enum Unmatched {
        UNKNOWN,
        SET_ASIDE,
        PLACEHOLDER,
        WAIT,
        STOP
    }

    /** What a missing value becomes. */
    public enum Blank {
        NOT_APPLICABLE,
        UNKNOWN,
        SET_ASIDE,
        STOP
    }

    /** What a date before the member's first version finds. */
    public enum BeforeFirst {
        FIRST,
        UNMATCHED
    }

    public Lookup {
        match = List.copyOf(match);
    }

    /** The name of the column that holds the key. */
    public String keyColumn() {
        return role + "_key";
    }
}
