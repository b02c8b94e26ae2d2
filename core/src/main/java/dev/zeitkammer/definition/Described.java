package dev.zeitkammer.definition;

import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/**
 * What a definition says of a table and its columns beside how they are loaded.
 *
 * @param about what the table is, for its readers
 * @param former the names that columns had before, by column
 * @param meanings what columns mean, by column
 */
public record Described(Optional<Word> about, Map<String, Word> former, Map<String, Word> meanings) {

    public static final Described NOTHING = new Described(Optional.empty(), Map.of(), Map.of());

    public Described {
        former = Collections.unmodifiableMap(new LinkedHashMap<>(former));
        meanings = Collections.unmodifiableMap(new LinkedHashMap<>(meanings));
    }

    /** With the former name and the meaning of a column, where they are given. */
    public Described with(String column, Optional<Word> was, Optional<Word> meaning) {
        Map<String, Word> renamed = new HashMap<>(former);
        was.ifPresent(word -> renamed.put(column, word));
        Map<String, Word> meant = new HashMap<>(meanings);
        meaning.ifPresent(word -> meant.put(column, word));
        return new Described(about, renamed, meant);
    }

    /** With what is said elsewhere too. */
    public Described and(Described other) {
        Map<String, Word> renamed = new HashMap<>(former);
        renamed.putAll(other.former);
        Map<String, Word> meant = new HashMap<>(meanings);
        meant.putAll(other.meanings);
        return new Described(about.or(other::about), renamed, meant);
    }

    /** The name that a column had before. */
    public Optional<String> was(String column) {
        return Optional.ofNullable(former.get(column)).map(Word::text);
    }

    /** What a column means. */
    public Optional<String> meaning(String column) {
        return Optional.ofNullable(meanings.get(column)).map(Word::text);
    }
}
