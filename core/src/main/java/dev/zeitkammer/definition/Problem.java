package dev.zeitkammer.definition;

/**
 * Something wrong in a definition: where, and what was found and expected.
 *
 * @param kind whether what stands there can stand there at all
 */
public record Problem(Place place, String message, Kind kind) implements Comparable<Problem> {

    /** What is wrong. */
    public enum Kind {
        /** A keyword, or the kind of value behind it, cannot stand there; JSON Schema refuses it too. */
        FORM,
        /** It does not fit what stands elsewhere, or means nothing. */
        MEANING
    }

    /** One of what is meant. */
    public Problem(Place place, String message) {
        this(place, message, Kind.MEANING);
    }

    @Override
    public int compareTo(Problem other) {
        int byPlace = place.compareTo(other.place);
        return byPlace != 0 ? byPlace : message.compareTo(other.message);
    }

    @Override
    public String toString() {
        return place + ": " + message;
    }
}
