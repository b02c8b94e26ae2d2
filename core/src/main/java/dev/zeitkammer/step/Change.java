package dev.zeitkammer.step;

import java.util.Optional;

/**
 * Something that a load publishes.
 *
 * @param what a change of a table or of the books
 * @param onlyIf what must be so before any change is made, else there is nothing to change
 */
public record Change<T>(T what, Optional<Flag> onlyIf) {

    public static <T> Change<T> of(T what) {
        return new Change<>(what, Optional.empty());
    }

    public static <T> Change<T> of(T what, Flag onlyIf) {
        return new Change<>(what, Optional.of(onlyIf));
    }
}
