package dev.zeitkammer.step;

/**
 * The query that makes the rows of a delivery.
 *
 * @param isPlain whether it only names staged columns, so that it can be asked several times instead of being kept
 * @param hasWaited whether rows that waited are among them
 */
public record DeliveryRows(String sql, boolean isPlain, boolean hasWaited) {

    /** The same, kept, so that rows can be added to it. */
    public DeliveryRows kept() {
        return new DeliveryRows(sql, false, hasWaited);
    }
}
