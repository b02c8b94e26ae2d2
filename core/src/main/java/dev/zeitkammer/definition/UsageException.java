package dev.zeitkammer.definition;

import dev.zeitkammer.engine.ZeitkammerException;

/** The user asked for something that does not exist or does not go together. */
public final class UsageException extends ZeitkammerException {

    private static final long serialVersionUID = 1L;

    public UsageException(String message) {
        super(message);
    }
}
