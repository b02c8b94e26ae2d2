package dev.zeitkammer.verify;

import dev.zeitkammer.engine.Warehouse.Result;

/**
 * How a proof went.
 *
 * @param offending the number of rows for which it does not hold
 * @param examples up to ten of them
 */
public record Verdict(String table, String claim, long offending, Result examples) {

    public boolean holds() {
        return offending == 0;
    }
}
