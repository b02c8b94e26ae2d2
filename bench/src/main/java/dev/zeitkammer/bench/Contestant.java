package dev.zeitkammer.bench;

import java.util.List;

/**
 * One way of doing a work.
 *
 * @param name the column of the report: {@link #FLOOR}, {@link #BY_HAND} or {@link #PROGRAM}
 * @param state what it begins with: a file to copy, or a database to make from a template; empty for nothing
 * @param command what is run, in the folder of the work
 */
record Contestant(String name, State state, List<String> command) {

    static final String FLOOR = "floor";
    static final String BY_HAND = "by hand";
    static final String PROGRAM = "zeitkammer";

    /** Puts a warehouse into the state that a run begins with. */
    interface State {
        void restore() throws Exception;
    }
}
