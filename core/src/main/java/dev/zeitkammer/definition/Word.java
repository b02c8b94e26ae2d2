package dev.zeitkammer.definition;

import java.util.Locale;

/** A text of a definition (a name, an expression) together with the place where it stands. */
public record Word(String text, Place place) {

    @Override
    public String toString() {
        return text;
    }

    /** A name of a table or column as warehouses compare it: they take capital letters for small ones. */
    public static String folded(String name) {
        return name.toLowerCase(Locale.ROOT);
    }
}
