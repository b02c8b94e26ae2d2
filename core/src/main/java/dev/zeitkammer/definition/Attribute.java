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
 */
public record Attribute(Word name, ChangeType change, Optional<SqlType> as, Optional<Word> take) {}
