package dev.zeitkammer.step;

import dev.zeitkammer.engine.Stager.Attempted;
import java.util.Optional;

/**
 * The query that makes the rows of a delivery.
 *
 * @param attempt the query for when that one fails, because a row cannot compute an expression: it tells which
 * @param isPlain whether it only names staged columns, so that it can be asked several times instead of being kept
 * @param hasWaited whether rows that waited are among them
 */
public record DeliveryRows(String sql, Optional<Attempted> attempt, boolean isPlain, boolean hasWaited) {

    /** The same, kept, so that rows can be added to it. */
    public DeliveryRows kept() {
        return new DeliveryRows(sql, attempt, false, hasWaited);
    }
}
