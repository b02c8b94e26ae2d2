package dev.zeitkammer.definition;

import java.util.Optional;

/**
 * How the rows of a dimension are known that others load; it is only looked up, and never written.
 *
 * @param current SQL over its columns that holds for the current row of a member; empty: the one without an end, or the only one
 * @param from its column with the date or moment from which a row holds; empty where rows have no dates
 * @param until its column with the date or moment until which it holds; empty: until the member's next row begins
 */
public record OthersLoad(Optional<Word> current, Optional<Word> from, Optional<Word> until) {

    /** Whether members may have several rows. */
    public boolean hasVersions() {
        return current.isPresent() || from.isPresent();
    }
}
