package dev.zeitkammer.definition;

/** A text of a definition (a name, an expression) together with the place where it stands. */
public record Word(String text, Place place) {

    @Override
    public String toString() {
        return text;
    }
}
