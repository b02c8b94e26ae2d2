package dev.zeitkammer.definition;

import java.util.Comparator;

/** A position in a definition file; lines and columns count from 1. */
public record Place(String file, int line, int column) implements Comparable<Place> {

    private static final Comparator<Place> ORDER =
            Comparator.comparing(Place::file).thenComparing(Place::line).thenComparing(Place::column);

    @Override
    public int compareTo(Place other) {
        return ORDER.compare(this, other);
    }

    @Override
    public String toString() {
        return file + ":" + line + ":" + column;
    }
}
