package dev.zeitkammer.engine;

/** What stands in the warehouse is not what the engine said it wrote; whatever was decided from it may be wrong. */
public final class LostRowsException extends WarehouseException {

    private static final long serialVersionUID = 1L;

    /** @param what what was said and what stands, beginning with "it" for the engine */
    public LostRowsException(String what) {
        super(
                "the engine did not keep what it said it wrote: " + what
                        + ". Nothing of this table was changed. Load again; if it happens again, report it with the version of the"
                        + " program, since rows would be lost without this check",
                null);
    }
}
