package dev.zeitkammer.engine;

import org.jspecify.annotations.Nullable;

/** The warehouse cannot be used now, and may be in a while: another program has it, or its server does not answer yet. */
public final class BusyException extends WarehouseException {

    private static final long serialVersionUID = 1L;

    public BusyException(String message, @Nullable Throwable cause) {
        super(message, cause);
    }
}
