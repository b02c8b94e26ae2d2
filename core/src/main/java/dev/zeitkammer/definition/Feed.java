package dev.zeitkammer.definition;

import java.util.List;

/**
 * A further input of a fact, for rows that are there already; it never inserts.
 *
 * @param match the stored columns by which rows are found, and in the same order the staged columns that hold their values
 * @param updates the roles of lookups, the degenerates and the measures that it writes
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

    /** Whether it writes a lookup's key, a degenerate or a measure, by its name. */
    public boolean writes(String name) {
        return updates.stream().map(Word::text).anyMatch(name::equals);
    }

    /** Where it says that it writes something. */
    public Word update(String name) {
        return updates.stream()
                .filter(word -> word.text().equals(name))
                .findFirst()
                .orElseThrow();
    }
}
