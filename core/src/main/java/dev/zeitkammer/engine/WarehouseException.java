package dev.zeitkammer.engine;

import org.jspecify.annotations.Nullable;

/** The warehouse could not be opened, or refused a statement. */
public class WarehouseException extends ZeitkammerException {

    private static final long serialVersionUID = 1L;

    public WarehouseException(String message, @Nullable Throwable cause) {
        super(message, cause);
    }
}
