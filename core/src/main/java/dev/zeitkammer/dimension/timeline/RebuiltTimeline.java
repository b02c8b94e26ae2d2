package dev.zeitkammer.dimension.timeline;

import static dev.zeitkammer.dimension.table.Scratch.AT_THEIR_MOMENT;
import static dev.zeitkammer.dimension.table.Scratch.EXTENDED;
import static dev.zeitkammer.dimension.table.Scratch.JUDGED;
import static dev.zeitkammer.dimension.table.Scratch.MATCH;
import static dev.zeitkammer.dimension.table.Scratch.MEMBERS;
import static dev.zeitkammer.dimension.table.Scratch.MOMENTS;
import static dev.zeitkammer.dimension.table.Scratch.MOVED;
import static dev.zeitkammer.dimension.table.Scratch.SHARED;
import static dev.zeitkammer.dimension.table.Scratch.SOURCE_CHANGES;
import static dev.zeitkammer.dimension.table.Scratch.STOOD;
import static dev.zeitkammer.dimension.table.Scratch.SUPPLIED;
import static dev.zeitkammer.dimension.table.Scratch.VERSIONS;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.current.CurrentComparison;
import dev.zeitkammer.dimension.current.DimensionChanges;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.RowImage;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.dimension.table.Scratch;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.dimension.table.SurrogateKeys;
import dev.zeitkammer.dimension.table.VersionColumns;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * Tells the history of some members anew: those with several staged rows, and those with a row that is not their latest
 * statement. What results is what would stand there had the rows come one load after another, in order of effective.
 *
 * <p>Old and new statements of a member are laid out in order of effective, the new one replacing an old one of the same
 * moment. A version begins where an existing version begins, and where the values differ from those that hold just before.
 * An existing version begins earlier when a late row states its values in the stretch before it.
 */
public final class RebuiltTimeline {

    /** Whether a member may have a timeline to rebuild. */
    private static final Flag IS_NEEDED =
            RowValidation.ANY_DUPLICATE_KEY.or(Flag.any(MATCH, "zk_outcome = " + CurrentComparison.REBUILT));

    /** Whether there is a timeline to rebuild. */
    public static final Flag ANY = Flag.any(MEMBERS);

    private final DimensionTable table;
    private final Dialect dialect;
    private final SurrogateKeys newKeys;
    private final Stamp stamp;
    private final Moments moments;
    private final VersionColumns columns;
    private final SourceChanges queries;
    private final StoredLookups lookedUp;
    private final AddedAttributes newAttributes;
    private final OwnValues ownValues;

    public RebuiltTimeline(DimensionLoading loading, SurrogateKeys newKeys, AddedAttributes newAttributes) {
        this.table = loading.table();
        this.dialect = loading.dialect();
        this.newKeys = newKeys;
        this.lookedUp = loading.lookups();
        this.newAttributes = newAttributes;
        this.ownValues = new OwnValues(table, dialect);
        this.stamp = loading.stamp();
        this.moments = loading.moments();
        this.columns = new VersionColumns(table, dialect);
        this.queries = new SourceChanges(table, dialect, lookedUp.standing(), stamp);
    }

    public List<Step> steps() {
        List<Step> steps = new ArrayList<>();
        if (table.hasEffective()) {
            new LateRowPolicy(table, dialect, lookedUp.standing()).step().ifPresent(steps::add);
        }
        steps.add(new Step.Keep(
                Step.caption(
                        "rebuilt timelines",
                        "Members with several rows, or with a row that is not their latest statement: their timeline is rebuilt."),
                MEMBERS,
                queries.members(),
                Optional.of(IS_NEEDED)));
        steps.add(
                new Step.Ask(Step.caption("questions", "What there is to do."), List.of(ANY), Optional.of(IS_NEEDED)));
        steps.add(rebuilding(
                Step.caption("standing versions", "Their versions as they stand, laid out apart from the whole table."),
                STOOD,
                queries.stood()));
        steps.addAll(new SharedValues(table, dialect, lookedUp).steps());
        steps.add(rebuilding(
                Step.caption(
                        "source changes",
                        "What was stated of them, old and new; equal type 2 values have equal numbers."),
                SOURCE_CHANGES,
                queries.statements()));
        steps.add(rebuilding(
                Step.caption(
                        "moments", "One row a member and moment; a new statement replaces the old one of its moment."),
                MOMENTS,
                SourceChanges.moments(SOURCE_CHANGES)));
        steps.add(rebuilding(
                Step.caption(
                        "extended versions",
                        "Versions that begin earlier, because a late row states their values in the stretch before them."),
                EXTENDED,
                RebuiltVersions.extended(dialect)));
        if (table.definition().deletions().when().isPresent()) {
            steps.addAll(movedDeletions());
        }
        steps.add(rebuilding(
                Step.caption("outcomes", "What each moment means: where versions begin, and the outcome of each row."),
                JUDGED,
                RebuiltVersions.judged(dialect)));
        steps.add(rebuilding(
                Step.caption(
                        "versions",
                        "The versions that follow, numbered in order, with the existing row that each one is."),
                VERSIONS,
                RebuiltVersions.versions()));
        if (ownValues.any()) {
            steps.add(rebuilding(
                    Step.caption(
                            "own values",
                            "Rows that overwrite values of the version in which they fall, and of no other."),
                    SUPPLIED,
                    ownValues.overwriting(sources())));
        }
        return steps;
    }

    /** A query of the change table's rows that follow: existing versions that changed, and versions that did not exist. */
    public String changes() {
        return updates() + "\nunion all\n" + inserts();
    }

    /** A deletion waits for the values of its moment; not for those of a version that no longer begins there. */
    private List<Step> movedDeletions() {
        Optional<Flag> moved = Optional.of(Flag.any(MOVED));
        return List.of(
                rebuilding(
                        Step.caption(
                                "moved deletions",
                                "Deletions that need not wait, since the values of their moment were stated earlier."),
                        MOVED,
                        queries.movedDeletions()),
                new Step.Ask(
                        Step.caption("questions", "Most timelines have none."), List.of(moved.get()), Optional.of(ANY)),
                new Step.Keep(
                        Step.caption("deletions at their moment", "They stand at their own moment."),
                        AT_THEIR_MOMENT,
                        SourceChanges.moved(),
                        moved),
                new Step.Keep(
                        Step.caption("moments again", "With them."),
                        MOMENTS,
                        SourceChanges.moments(AT_THEIR_MOMENT),
                        moved),
                new Step.Keep(
                        Step.caption("extended versions again", "With them."),
                        EXTENDED,
                        RebuiltVersions.extended(dialect),
                        moved));
    }

    public static Step rebuilding(Caption caption, Relation relation, String query) {
        return new Step.Keep(caption, relation, query, Optional.of(ANY));
    }

    /** A version with the rows that its values come from: see the aliases in {@link #sources}. */
    private RowImage image(RowImage images) {
        return images.withEach(
                        Role.TYPE_1,
                        column -> ownValues.any() ? ownValues.value(column) : dialect.column("k", column.name()))
                .from(Role.TYPE_3, "k")
                .from(Role.PREVIOUS, "k")
                .withEach(Role.TYPE_2, this::versioned)
                .with(Role.VALID_FROM, "v.zk_from")
                .with(Role.VALID_TO, validTo())
                .with(Role.IS_CURRENT, "v.zk_next is null")
                .with(Role.VERSION, "cast(v.zk_version as integer)")
                .with(Role.LAST_STATED, "v.zk_stated")
                .with(Role.IS_DELETED, "v.zk_is_deleted")
                .with(Role.ROW_ORIGIN, dialect.text(RowOrigin.SOURCE.word()));
    }

    /** A value of type 2. A version that a row only states again keeps the key that it points at. */
    private String versioned(DimensionColumn column) {
        String opens = column.isLookedUp()
                ? " and (v.zk_key is null or v.zk_from <> " + columns.own("o", Role.VALID_FROM) + " or "
                        + dialect.anyDiffers(table.compared(Role.TYPE_2), "r", "o") + ")"
                : "";
        return dialect.either(
                "v.zk_row is not null" + opens, dialect.column("r", column.name()), dialect.column("s", column.name()));
    }

    private String validTo() {
        return "case when v.zk_to is null then " + moments.openEnd() + " else " + moments.endBefore("v.zk_to") + " end";
    }

    /**
     * r: the staged row that opens the version; s: the existing version it repeats; k: what the member's versions share;
     * f: the member's earliest staged row; c: its current version; o: the version as it stands; u: the version's supplier;
     * b: the existing version beside it.
     */
    private String sources() {
        String key = dialect.quote(table.name(Role.SURROGATE));
        String sources = Sql.of("""
                from ${versions} as v
                join ${members} as m on m.zk_member = v.zk_member
                join ${shared} as k on k.zk_member = v.zk_member
                left join ${delivered} as f on f.zk_row = m.zk_first_row
                left join ${delivered} as r on r.zk_row = v.zk_row
                left join ${stood} as s on s.${key} = v.zk_source
                left join ${stood} as c on c.${key} = m.zk_current
                left join ${stood} as o on o.${key} = v.zk_key""")
                .with(VERSIONS, MEMBERS, SHARED, STOOD)
                .with("delivered", lookedUp.rows())
                .with("key", key)
                .text();
        if (!ownValues.any() && table.columns().stream().allMatch(DimensionColumn::isDelivered)) {
            return sources;
        }
        return sources + "\nleft join " + lookedUp.rows() + " as u on u.zk_row = v.zk_supplier\nleft join " + STOOD
                + " as b on b." + key + " = v.zk_neighbour";
    }

    private String inserts() {
        RowImage images = image(RowImage.inserted(table, dialect, moments, stamp))
                .with(Role.SURROGATE, newKeys.ofRebuilt())
                .with(Role.MEMBER_KEY, "null")
                .from(Role.KEY, "m")
                .withEach(Role.TYPE_0, column -> column.isDelivered() ? first(column, "c") : kept(column));
        String inserted = Sql.of("""
                select 'insert' as zk_change, v.zk_row,
                  ${image}
                ${sources}
                where v.zk_key is null""")
                .with("image", images.selectList())
                .with("sources", sources())
                .text();
        return table.definition().hasMemberKey() ? withMemberKey(inserted) : inserted;
    }

    /** The key that all versions of a member have: that of the versions that stand, or of its first one. */
    private String withMemberKey(String inserted) {
        String member = table.name(Role.MEMBER_KEY);
        String columns = dialect.list(
                table.columns(),
                column -> column.role() == Role.MEMBER_KEY
                        ? Sql.of(
                                        "coalesce((select min(w.${member}) from ${stood} as w where ${w_is_i}), first_value(zk_i.${key}) over (partition by ${members} order by zk_i.${version})) as ${member}")
                                .with("member", dialect.quote(member))
                                .with(STOOD)
                                .with("w_is_i", dialect.allEqual(table.keys(), "w", "zk_i"))
                                .with("key", dialect.quote(table.name(Role.SURROGATE)))
                                .with("members", dialect.list(table.keys(), key -> dialect.column("zk_i", key)))
                                .with("version", dialect.quote(table.name(Role.VERSION)))
                                .text()
                        : dialect.column("zk_i", column.name()));
        return "select zk_i.zk_change, zk_i.zk_row,\n  " + columns + "\nfrom (\n" + SqlText.indented(inserted, 2)
                + "\n) as zk_i";
    }

    /** Type 0: the first value, which a version under an alias has; of a new member, that of its earliest row. */
    private String first(DimensionColumn column, String alias) {
        return dialect.either(
                "m.zk_current is null", dialect.column("f", column.name()), dialect.column(alias, column.name()));
    }

    /** What nothing was delivered of: what the version says that goes on, or the one before; of a new member nothing. */
    private String kept(DimensionColumn column) {
        return "case when m.zk_current is null then " + dialect.column("f", column.name())
                + " when v.zk_source is not null then " + dialect.column("s", column.name()) + " else "
                + dialect.column("b", column.name()) + " end";
    }

    private String updates() {
        RowImage images = image(RowImage.existing(table, dialect, "o").touched(stamp))
                .withEach(Role.TYPE_0, column -> first(column, "o"));
        String overwritten = ownValues.any()
                ? ownValues.changes() + " or (m.zk_supplies and "
                        + dialect.anyDiffers(table.names(Role.TYPE_3, Role.PREVIOUS), "k", "o") + ")"
                : "(m.zk_supplies and "
                        + dialect.anyDiffers(table.names(Role.TYPE_1, Role.TYPE_3, Role.PREVIOUS), "k", "o") + ")";
        String changed = Sql.of("""
                (${o_valid_from} <> v.zk_from or ${o_version} <> v.zk_version or ${o_is_current} <> (v.zk_next is null) or ${o_is_deleted} <> v.zk_is_deleted or ${ends_elsewhere}
                    or m.zk_placeholder is not null
                    or (v.zk_row is not null and ${states_otherwise})
                    or ${overwritten})""")
                .with("o_valid_from", columns.own("o", Role.VALID_FROM))
                .with("o_version", columns.own("o", Role.VERSION))
                .with("o_is_current", columns.holds("o", Role.IS_CURRENT))
                .with("o_is_deleted", columns.holds("o", Role.IS_DELETED))
                .with("ends_elsewhere", dialect.differs(columns.own("o", Role.VALID_TO), validTo()))
                .with("states_otherwise", dialect.anyDiffers(table.compared(Role.TYPE_2), "r", "o"))
                .with("overwritten", overwritten)
                .text();
        return Sql.of("""
                select
                  case when ${changed} then case when ${values_change} then 'update' else 'move' end else 'restate' end,
                  v.zk_row,
                  ${image}
                ${sources}
                where v.zk_key is not null and (${changed} or ${o_stated} <> v.zk_stated)""")
                .with("changed", changed)
                .with("values_change", images.differs("o", DimensionChanges.VALUES))
                .with("image", images.selectList())
                .with("sources", sources())
                .with("o_stated", columns.stated("o"))
                .text();
    }

    /** A query of the outcomes of the rows that went this way, without those that changed nothing. */
    public String outcomes() {
        String rows = ownValues.any()
                ? "select zk_row, zk_outcome from " + JUDGED + " where zk_outcome <> 'unchanged'\nunion all\n"
                        + "select t.zk_row, " + Outcome.OVERWRITTEN.sql() + " from " + JUDGED + " as t join " + SUPPLIED
                        + " as s on s.zk_row = t.zk_row where t.zk_outcome = 'unchanged'"
                : "select zk_row, zk_outcome from " + JUDGED + " where zk_outcome <> 'unchanged'";
        String addsToo =
                table.definition().deletions().addsUnknown() ? " and not " + Scratch.adds("zk_j.zk_deleted") : "";
        return rows + "\nunion all\nselect zk_deleted, zk_deletion from " + JUDGED
                + " as zk_j where zk_deletion <> 'unchanged'"
                + addsToo
                + newAttributes.outcomesRebuilt();
    }

    /** The number of rows that came late and changed something. */
    public String lateRows() {
        if (!table.hasEffective()) {
            return "0";
        }
        return "(select count(*) from " + ROWS + " as r join " + MEMBERS + " as m on "
                + dialect.allEqual(table.keys(), "r", "m")
                + " where r.zk_row >= 0 and r.zk_effective < m.zk_latest and r.zk_row in (select zk_row from (\n"
                + outcomes() + "\n) as changing where zk_row is not null))";
    }
}
