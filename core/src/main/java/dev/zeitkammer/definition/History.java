package dev.zeitkammer.definition;

import java.util.Optional;

/**
 * How a dimension keeps the history of its members.
 *
 * @param effective the staged column from which a row holds; empty: the load date
 * @param late what becomes of rows that are older than the member's latest statement and would change something
 * @param overwrite the versions that a changed attribute of type 1 reaches
 */
public record History(Optional<Word> effective, Late late, Overwrite overwrite) {

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

    static final History BY_LOAD_DATE = new History(Optional.empty(), Late.SPLICE, Overwrite.ALL);
}
