package dev.zeitkammer.dimension.table;

import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.step.Flag;

/** The scratch relations of a dimension's load, beside those of the sieve and of the lookups. */
public final class Scratch {

    public static final Relation MATCH = Relation.of(
            "zk_match",
            "A staged row that changes something, beside the current version of its member.",
            "zk_row",
            "zk_key",
            "zk_outcome",
            "zk_overwrites");

    public static final Relation KEYS = Relation.of(
            "zk_keys",
            "The surrogate key of a row that becomes a new member or a new version.",
            "zk_row",
            "zk_is_member",
            "zk_new_key");

    public static final Relation CHANGES = Relation.of(
            "zk_changes", "A version to insert, or a row as it will be: the change table.", "zk_change", "zk_row");

    public static final Relation MEMBERS = Relation.of(
            "zk_members",
            "A member whose timeline is rebuilt.",
            "zk_member",
            "zk_first_row",
            "zk_last_row",
            "zk_newest",
            "zk_current",
            "zk_latest",
            "zk_placeholder",
            "zk_supplies");

    public static final Relation ADDED =
            Relation.of("zk_added", "A row that ends a member of whom nothing was known, and adds it.", "zk_row");

    public static final Relation STOOD = Relation.of(
            "zk_stood", "A version that stands of such a member, with what its keys point at.", "zk_member", "zk_w*");

    public static final Relation SOURCE_CHANGES = Relation.of(
            "zk_source_changes",
            "Something that was stated about such a member, before or now.",
            "zk_member",
            "zk_at",
            "zk_kind",
            "zk_row",
            "zk_key",
            "zk_value");

    public static final Relation MOMENTS = Relation.of(
            "zk_moments",
            "The same, one row a member and moment.",
            "zk_member",
            "zk_at",
            "zk_row",
            "zk_key",
            "zk_kind",
            "zk_stood",
            "zk_value",
            "zk_ended",
            "zk_forgotten_by",
            "zk_deleted",
            "zk_ends");

    public static final Relation EXTENDED = Relation.of(
            "zk_extended",
            "A version that begins earlier, because a late row states the same.",
            "zk_member",
            "zk_key",
            "zk_began",
            "zk_begins",
            "zk_stated_again");

    public static final Relation MOVED = Relation.of(
            "zk_moved",
            "A staged deletion that ends its member at its own moment after all.",
            "zk_member",
            "zk_row",
            "zk_moment");

    public static final Relation AT_THEIR_MOMENT = new Relation(
            "zk_at_their_moment", "A statement, with moved deletions at their own moment.", SOURCE_CHANGES.columns());

    public static final Relation JUDGED = Relation.of(
            "zk_judged",
            "A moment with what becomes of it.",
            "zk_at",
            "zk_before",
            "zk_begins",
            "zk_closes",
            "zk_deleted",
            "zk_deletion",
            "zk_ended",
            "zk_ends",
            "zk_extends",
            "zk_held",
            "zk_is_inside",
            "zk_key",
            "zk_kind",
            "zk_known",
            "zk_member",
            "zk_next_at",
            "zk_outcome",
            "zk_returns",
            "zk_row",
            "zk_since",
            "zk_stood",
            "zk_value");

    public static final Relation VERSIONS = Relation.of(
            "zk_versions",
            "A version that follows, with the existing row that it is.",
            "zk_beside",
            "zk_closed",
            "zk_closes_before",
            "zk_from",
            "zk_is_deleted",
            "zk_key",
            "zk_member",
            "zk_neighbour",
            "zk_next",
            "zk_next_closes",
            "zk_row",
            "zk_source",
            "zk_stated",
            "zk_supplier",
            "zk_to",
            "zk_version");

    public static final Relation SEQUENCE = Relation.of(
            "zk_sequence",
            "Something that was stated of values that all versions share, in order, from what stood before.",
            "zk_member",
            "zk_place",
            "zk_at",
            "zk_nth",
            "zk_w*");

    public static final Relation TURNS = Relation.of(
            "zk_turns", "Where in the sequence of a member such values last changed.", "zk_member", "zk_t*");

    public static final Relation SHARED = Relation.of(
            "zk_shared", "The values that all versions of a member share from now on.", "zk_member", "zk_overwrites");

    public static final Relation SUPPLIED =
            Relation.of("zk_supplied", "A row whose values only its own version gets.", "zk_row");

    public static final Relation FILLED = Relation.of(
            "zk_filled",
            "A current version in which attributes are filled that did not exist when it was made.",
            "zk_row",
            "zk_key",
            "zk_nth");

    public static final Relation STORED =
            Relation.of("zk_stored", "A row of the table, with attributes that were never told filled in.");

    /** Whether rows are added or changed. */
    public static final Flag ANY_WRITTEN = Flag.any(CHANGES).or(Flag.any(KEYS));

    private Scratch() {}

    /** Whether the row of a number adds the member that it ends. */
    public static String adds(String row) {
        return "exists (select 1 from " + ADDED + " as zk_e where zk_e.zk_row = " + row + ")";
    }
}
