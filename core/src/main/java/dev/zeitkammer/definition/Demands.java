package dev.zeitkammer.definition;

import java.math.BigDecimal;
import java.util.List;
import java.util.Optional;

/**
 * What the loads of a table must meet.
 *
 * @param setAsideLimit the most staged rows that may be set aside, in per cent; empty: any number
 * @param assertions what is asserted of the table once it is loaded
 */
public record Demands(Optional<BigDecimal> setAsideLimit, List<Assertion> assertions) {

    public Demands {
        assertions = List.copyOf(assertions);
    }
}
