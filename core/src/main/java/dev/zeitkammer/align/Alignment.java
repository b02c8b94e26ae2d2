package dev.zeitkammer.align;

import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * What it takes to make a table fit its shape.
 *
 * @param statements the SQL, in order; empty when the table fits
 * @param creates whether the table does not exist yet
 * @param added columns that are added to a table that exists
 * @param notes what the reader should know and nothing is done about
 */
public record Alignment(List<String> statements, boolean creates, List<String> added, List<String> notes) {

    public Alignment {
        statements = List.copyOf(statements);
        added = List.copyOf(added);
        notes = List.copyOf(notes);
    }

    /** The same, with a statement more. */
    public Alignment then(String statement) {
        return new Alignment(
                Stream.concat(statements.stream(), Stream.of(statement)).toList(), creates, added, notes);
    }

    /** The same, with statements more. */
    public Alignment then(List<String> more) {
        return new Alignment(Stream.concat(statements.stream(), more.stream()).toList(), creates, added, notes);
    }

    /** The same, with something more to know. */
    public Alignment noting(String note) {
        return new Alignment(
                statements,
                creates,
                added,
                Stream.concat(notes.stream(), Stream.of(note)).toList());
    }

    /** This one and then another, of a table that goes with it. */
    public Alignment and(Alignment other) {
        return new Alignment(
                Stream.concat(statements.stream(), other.statements.stream()).toList(),
                creates,
                added,
                Stream.concat(notes.stream(), other.notes.stream()).toList());
    }

    /**
     * The type a column should have: that of the table, widened where the rows need it. What others made keeps the type of its
     * numbers and texts; a value that does not fit is a bad one.
     */
    public static SqlType widened(Optional<SqlType> existing, SqlType staged, boolean isOfOthers) {
        return existing.filter(type -> staged.fitsIn(type) || isOfOthers && type.canHold(staged))
                .orElse(staged);
    }
}
