package dev.zeitkammer.definition;

import java.util.Optional;

/**
 * The surrogate key of a dimension.
 *
 * @param column the name of its column
 * @param by where new keys come from
 * @param take SQL over the staged columns that makes them; given for {@link By#TAKE} only
 */
public record SurrogateKey(String column, By by, Optional<Word> take) {

    /** Where keys come from. */
    public enum By {
        /** They count on from the highest one. */
        SEQUENCE,
        /** They are a hash of the business key and the number of the version. */
        HASH,
        /** The delivery says them. */
        TAKE
    }

    /** Counted on, in the column that is named for the dimension. */
    public static SurrogateKey counted(Word dimension) {
        return new SurrogateKey(dimension + "_key", By.SEQUENCE, Optional.empty());
    }
}
