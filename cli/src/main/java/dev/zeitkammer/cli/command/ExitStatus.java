package dev.zeitkammer.cli.command;

/** The exit statuses of the program. */
final class ExitStatus {

    /** Everything was done. */
    static final int DONE = 0;

    /** A load or a proof failed, or the warehouse or a file could not be used. */
    static final int FAILED = 1;

    /** The command line or the definitions are wrong. */
    static final int USAGE = 2;

    /** A guard stopped the load: a limit, a {@code stop}, an older load date. */
    static final int STOPPED = 3;

    private ExitStatus() {}
}
