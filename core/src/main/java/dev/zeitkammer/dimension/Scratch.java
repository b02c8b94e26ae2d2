package dev.zeitkammer.dimension;

/** The names of the scratch tables of a dimension's load, beside those of the sieve. */
final class Scratch {

    /** Staged rows that change something, each beside the current version of its member. */
    static final String MATCH = "zk_match";
    /** The keys of the rows that become new members or new versions. */
    static final String KEYS = "zk_keys";
    /** Versions to insert, and rows to update: the change table. */
    static final String CHANGES = "zk_changes";
    /** Members whose history is told anew. */
    static final String MEMBERS = "zk_members";
    /** Everything that was stated about those members, old and new. */
    static final String STATEMENTS = "zk_statements";
    /** The same, one row a member and moment. */
    static final String MOMENTS = "zk_moments";
    /** Versions that begin earlier, because a late row states the same. */
    static final String EXTENDED = "zk_extended";
    /** Staged deletions that end their member at their own moment after all. */
    static final String MOVED = "zk_moved";
    /** Moments with what becomes of them. */
    static final String TOLD = "zk_told";
    /** The versions that follow. */
    static final String VERSIONS = "zk_versions";

    /** What was stated of values that all versions share, in order, from what stood before. */
    static final String SEQUENCE = "zk_sequence";
    /** Where in the sequence such a value last changed. */
    static final String TURNS = "zk_turns";
    /** The values that all versions of a member share from now on. */
    static final String SHARED = "zk_shared";
    /** Rows whose values only their own version gets. */
    static final String SUPPLIED = "zk_supplied";
    /** Current versions in which attributes were filled that did not exist when they were made. */
    static final String FILLED = "zk_filled";

    private Scratch() {}
}
