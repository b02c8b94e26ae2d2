package dev.zeitkammer.verify;

import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Warehouse.Result;
import java.util.ArrayList;
import java.util.List;

/**
 * How a proof went.
 *
 * @param offending the number of rows for which it does not hold, or of loads
 * @param of row or load
 * @param examples up to ten of them
 */
public record Verdict(String table, String claim, long offending, String of, Result examples) {

    public boolean holds() {
        return offending == 0;
    }

    /** What fails, for how many rows, and the first of them, in words. */
    public String told() {
        List<String> first = new ArrayList<>();
        for (int column = 0;
                column < examples.columns().size() && !examples.rows().isEmpty();
                column++) {
            first.add(examples.columns().get(column).name() + " "
                    + examples.rows().get(0).get(column));
        }
        return "\"" + claim + "\" fails for " + Counted.of(offending, of)
                + (first.isEmpty() ? "" : ", such as " + String.join(", ", first));
    }
}
