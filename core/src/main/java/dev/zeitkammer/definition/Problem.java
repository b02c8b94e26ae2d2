package dev.zeitkammer.definition;

/** Something wrong in a definition: where, and what was found and expected. */
public record Problem(Place place, String message) implements Comparable<Problem> {

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
