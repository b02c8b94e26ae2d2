package dev.zeitkammer.definition;

import dev.zeitkammer.engine.SqlType;
import java.util.Optional;

/**
 * A number of a fact.
 *
 * @param name the column's name in the fact, and in the staged rows unless {@code take} is given
 * @param take SQL over the staged columns that makes the value
 */
public record Measure(Word name, SqlType type, Optional<Word> take) {}
