package dev.zeitkammer.step;

import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * How to read off what the lookups of a delivery found.
 *
 * @param counts a query of (role, what was found, rows) with a row for each of them at least; rows of one role and word are added up
 * @param nobody the words that stand for nobody
 * @param unmatched for the roles that found nobody somewhere: a query of (role, what was found, natural key, rows), the most
 *     frequent first
 */
public record LookupTally(String counts, List<String> nobody, Function<Set<String>, Optional<String>> unmatched) {

    public LookupTally {
        nobody = List.copyOf(nobody);
    }
}
