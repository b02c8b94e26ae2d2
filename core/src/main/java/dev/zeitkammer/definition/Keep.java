package dev.zeitkammer.definition;

import java.util.List;
import java.util.Optional;

/**
 * How an input remembers the latest row of each key over all its deliveries.
 *
 * @param by the staged columns that identify a row
 * @param order the staged column by whose greatest value the latest row is known; empty: the last one that was delivered
 * @param compare the staged columns in which a row must differ from the kept one to be written over it; empty: any
 * @param when SQL over the staged columns; a row for which it holds takes the kept one away
 */
public record Keep(List<Word> by, Optional<Word> order, List<Word> compare, Optional<Word> when) {

    public Keep {
        by = List.copyOf(by);
        compare = List.copyOf(compare);
    }
}
