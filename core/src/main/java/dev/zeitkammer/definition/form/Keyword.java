package dev.zeitkammer.definition.form;

/**
 * A keyword that may stand in a group.
 *
 * @param name as it is written
 * @param shape what may stand behind it
 * @param isRequired whether it must stand there
 * @param about what it means, for the person who writes it
 */
public record Keyword(String name, Shape shape, boolean isRequired, String about) {

    /** One that may be left out. */
    public static Keyword of(String name, Shape shape, String about) {
        return new Keyword(name, shape, false, about);
    }

    /** One that must stand there. */
    public static Keyword required(String name, Shape shape, String about) {
        return new Keyword(name, shape, true, about);
    }
}
