package dev.zeitkammer.definition;

import dev.zeitkammer.engine.SqlType;
import java.util.Optional;

/**
 * A column of a dimension that describes its members.
 *
 * @param name the column's name in the dimension, and in the staged rows unless {@code take} is given
 * @param change what a changed value means
 * @param as the column's type, when the definition gives it
 * @param take SQL over the staged columns that makes the value
 * @param previous the column that keeps the value before the last change; given for type 3 only
 * @param was the name that the column had before
 * @param about what the column means, for readers of the table
 * @param missing what becomes of it where a delivery has no such column
 */
public record Attribute(
        Word name,
        ChangeType change,
        Optional<SqlType> as,
        Optional<Word> take,
        Optional<Word> previous,
        Optional<Word> was,
        Optional<Word> about,
        Missing missing) {

    /** What becomes of an attribute that a delivery has no column for. */
    public enum Missing {
        /** The load stops before it writes. */
        STOP,
        /** Every member keeps its value; a new one has none. */
        KEEP,
        /** It has no value. */
        NONE
    }

    /** An attribute of which nothing is said but what a change means. */
    public static Attribute plain(Word name, ChangeType change) {
        return new Attribute(
                name,
                change,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Missing.STOP);
    }

    /** The same, with something else said of deliveries that have no column for it. */
    public Attribute missing(Missing otherwise) {
        return new Attribute(name, change, as, take, previous, was, about, otherwise);
    }
}
