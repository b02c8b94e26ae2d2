package dev.zeitkammer.bench;

import java.nio.file.Path;
import java.util.List;
import java.util.Optional;

/**
 * A piece of work that several contestants do.
 *
 * @param name what is done, for the report
 * @param goal what is to be reached, in words
 * @param against the contestant that the goal compares with
 * @param limit how many times as long as that one the program may take
 * @param folder where the contestants run
 * @param contestants the least that must be done, the hand-written SQL, and the program
 * @param agreement a query by which the results of those that load must be equal, where there is one
 */
record Work(
        String name,
        String goal,
        String against,
        double limit,
        Path folder,
        List<Contestant> contestants,
        Optional<Agreement> agreement) {

    /** Asks the warehouse that a contestant has loaded. */
    interface Agreement {
        String result() throws Exception;
    }
}
