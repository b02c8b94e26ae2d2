package dev.zeitkammer.definition;

import java.util.Optional;

/**
 * How a dimension keeps the history of its members.
 *
 * @param effective the staged column from which a row holds; empty: the load date
 * @param late what becomes of rows that are older than the member's latest statement and would change something
 * @param overwrite the versions that a changed attribute of type 1 reaches
 * @param facts what becomes of facts whose date falls into a version that came late; empty: they follow where they can
 */
public record History(Optional<Word> effective, Late late, Overwrite overwrite, Optional<Facts> facts) {

    /** What becomes of late rows. */
    public enum Late {
        SPLICE,
        SET_ASIDE,
        STOP
    }

    /** The versions that a changed attribute of type 1 reaches. */
    public enum Overwrite {
        ALL,
        CURRENT
    }

    /** What becomes of facts whose date falls into a version that came late. */
    public enum Facts {
        FOLLOW,
        STAY
    }

    public static final History BY_LOAD_DATE =
            new History(Optional.empty(), Late.SPLICE, Overwrite.ALL, Optional.empty());
}
