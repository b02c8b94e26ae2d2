package dev.zeitkammer.definition;

import java.util.List;

/**
 * A further input of a fact, for rows that are there already; it never inserts.
 *
 * @param match the stored columns by which rows are found, and in the same order the staged columns that hold their values
 * @param updates the roles of lookups, and the measures, that it writes
 * @param withoutFact what becomes of a row that finds no fact
 */
public record Feed(Input from, List<Word> stored, List<Word> match, List<Word> updates, WithoutFact withoutFact) {

    /** What becomes of a row that finds no fact. */
    public enum WithoutFact {
        SET_ASIDE,
        WAIT
    }

    public Feed {
        stored = List.copyOf(stored);
        match = List.copyOf(match);
        updates = List.copyOf(updates);
    }

    /** Whether it writes a lookup's key or a measure. */
    public boolean writes(Word name) {
        return updates.stream().map(Word::text).anyMatch(name.text()::equals);
    }
}
