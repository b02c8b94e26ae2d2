package dev.zeitkammer.engine;

/** A guard stopped the work before anything was changed: a limit, a {@code stop}, an older load date. */
public final class GuardException extends ZeitkammerException {

    private static final long serialVersionUID = 1L;

    public GuardException(String message) {
        super(message);
    }
}
