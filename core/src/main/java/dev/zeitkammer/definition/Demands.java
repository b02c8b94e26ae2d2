package dev.zeitkammer.definition;

import java.math.BigDecimal;
import java.util.List;
import java.util.Optional;

/**
 * What the loads of a table must meet.
 *
 * @param setAsideLimit the most staged rows that may be set aside, in per cent; empty: any number
 * @param expectations what is expected of the table once it is loaded
 */
public record Demands(Optional<BigDecimal> setAsideLimit, List<Expectation> expectations) {

    public Demands {
        expectations = List.copyOf(expectations);
    }
}
