package dev.zeitkammer.definition;

import java.math.BigDecimal;
import java.util.Optional;

/**
 * How members of a dimension end.
 *
 * @param when a condition over the staged columns; a row for which it holds ends its member
 * @param absent whether a member that a full extract does not deliver is ended
 * @param unknown what becomes of a member whose first row ends it
 * @param limit the share of the undeleted members, in percent, of which more may not be absent
 */
public record Deletions(Optional<Word> when, boolean absent, Unknown unknown, BigDecimal limit) {

    /** What becomes of a member whose first row ends it. */
    public enum Unknown {
        /** It is none. */
        IGNORE,
        /** It is kept as one that has ended, with the values of that row. */
        ADD
    }

    /** The default limit, in percent. */
    public static final BigDecimal USUAL_LIMIT = BigDecimal.valueOf(20);

    public static final Deletions NONE = new Deletions(Optional.empty(), false, Unknown.IGNORE, USUAL_LIMIT);

    /** Whether members can end at all. */
    public boolean any() {
        return when.isPresent() || absent;
    }

    /** Whether a row that ends a member of whom nothing is known adds it. */
    public boolean addsUnknown() {
        return unknown == Unknown.ADD;
    }
}
