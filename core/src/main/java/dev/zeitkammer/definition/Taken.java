package dev.zeitkammer.definition;

import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * What columns are taken from that have another name in the warehouse than in the staged rows, or are computed of them.
 *
 * @param from by the column's name in the table, a staged column or an SQL expression over them
 */
public record Taken(Map<String, Word> from) {

    public static final Taken AS_NAMED = new Taken(Map.of());

    public Taken {
        from = Collections.unmodifiableMap(new LinkedHashMap<>(from));
    }

    /** What a column is taken from: itself, where nothing else is said. */
    public Word of(Word column) {
        return from.getOrDefault(column.text(), column);
    }

    /** What several columns are taken from. */
    public List<Word> of(List<Word> columns) {
        return columns.stream().map(this::of).toList();
    }

    /** With what columns of another list are taken from. */
    public Taken and(Taken other) {
        Map<String, Word> all = new HashMap<>(from);
        all.putAll(other.from);
        return new Taken(all);
    }
}
