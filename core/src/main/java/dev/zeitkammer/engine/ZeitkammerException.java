package dev.zeitkammer.engine;

import org.jspecify.annotations.Nullable;

/** The root of everything this program throws on purpose; the message is written for the person who must act on it. */
public class ZeitkammerException extends RuntimeException {

    private static final long serialVersionUID = 1L;

    public ZeitkammerException(String message) {
        super(Secrets.cleaned(message));
    }

    public ZeitkammerException(String message, @Nullable Throwable cause) {
        super(Secrets.cleaned(message), cause);
    }
}
