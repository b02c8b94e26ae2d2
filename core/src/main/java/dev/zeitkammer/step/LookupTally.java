package dev.zeitkammer.step;

import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * How to read off for whom the lookups of a delivery found nobody.
 *
 * @param nobody the words that stand for nobody
 * @param unmatched for the roles that found nobody somewhere: a query of (role, what was found, natural key, rows), the most
 *     frequent first
 */
public record LookupTally(List<String> nobody, Function<Set<String>, Optional<String>> unmatched) {

    public LookupTally {
        nobody = List.copyOf(nobody);
    }
}
