package dev.zeitkammer.staging;

import dev.zeitkammer.engine.ZeitkammerException;
import org.jspecify.annotations.Nullable;

/** A delivery cannot be read as it is; nothing of it was loaded. */
public final class StagingException extends ZeitkammerException {

    private static final long serialVersionUID = 1L;

    StagingException(String message) {
        super(message);
    }

    StagingException(String message, @Nullable Throwable cause) {
        super(message, cause);
    }
}
