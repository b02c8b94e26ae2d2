package dev.zeitkammer.dimension;

/** The names of the scratch tables of a dimension's load. */
final class Scratch {

    /** The staged rows as the definition loads them, under the names of the table's columns. */
    static final String DELIVERY = "zk_delivery";
    /** Staged rows that take no further part: set aside, repeated, or superseded. */
    static final String OUT = "zk_out";
    /** Business keys that stand in more than one staged row. */
    static final String CROWDED = "zk_crowded";
    /** The staged rows that take part. */
    static final String ROWS = "zk_rows";
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
