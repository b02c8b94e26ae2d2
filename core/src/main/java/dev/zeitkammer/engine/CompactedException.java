package dev.zeitkammer.engine;

/**
 * Others put the rows of a table into other files while a transaction wrote to it. No row is another one, and nothing of the
 * transaction stands: it may be run again.
 */
public final class CompactedException extends WarehouseException {

    private static final long serialVersionUID = 1L;

    /** @param table its name, as messages show it */
    public CompactedException(String table) {
        super(
                "The files of " + table + " were rewritten while this load ran, again and again; nothing of it is"
                        + " loaded. Load again when the compaction has ended",
                null);
    }
}
