package dev.zeitkammer.definition;

import java.util.List;
import java.util.SortedSet;
import java.util.TreeSet;

/** Collects the problems of a project, so that all of them are reported in one go. */
public final class Problems {

    private final SortedSet<Problem> found = new TreeSet<>();

    public void add(Place place, String message) {
        found.add(new Problem(place, message));
    }

    /** Adds what cannot stand there whatever stands elsewhere. */
    public void malformed(Place place, String message) {
        found.add(new Problem(place, message, Problem.Kind.FORM));
    }

    public boolean isEmpty() {
        return found.isEmpty();
    }

    /** Throws what was found so far, if anything. */
    public void throwIfAny() {
        if (!found.isEmpty()) {
            throw new DefinitionException(List.copyOf(found));
        }
    }
}
