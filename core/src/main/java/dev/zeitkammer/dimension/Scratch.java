package dev.zeitkammer.dimension;

/** The names of the scratch tables of a dimension's load, beside those of the sieve. */
final class Scratch {

    /** Staged rows that change something, each beside the current version of its member. */
    static final String MATCH = "zk_match";
    /** Rows to insert or update: the change table. */
    static final String CHANGES = "zk_changes";
    /** Members whose history is told anew. */
    static final String MEMBERS = "zk_members";
    /** Everything that was stated about those members, old and new. */
    static final String STATEMENTS = "zk_statements";
    /** The same, one row a member and moment. */
    static final String MOMENTS = "zk_moments";
    /** Versions that begin earlier, because a late row states the same. */
    static final String EXTENDED = "zk_extended";
    /** Moments with what becomes of them. */
    static final String TOLD = "zk_told";
    /** The versions that follow. */
    static final String VERSIONS = "zk_versions";

    private Scratch() {}
}
