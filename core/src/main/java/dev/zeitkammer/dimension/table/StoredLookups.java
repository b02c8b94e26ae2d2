package dev.zeitkammer.dimension.table;

import static dev.zeitkammer.lookup.LookupSteps.RESOLVED;
import static dev.zeitkammer.step.RowValidation.DELIVERY;
import static dev.zeitkammer.step.RowValidation.OUT;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSteps;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.LookupTally;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The keys of other members that a dimension stores. Staged rows get them, and what identifies the members, as columns; so do
 * the rows of the table, under the name {@link #standing}. A parent may come in the same delivery: what is stored at first is
 * a token of the row, and the key once all rows are written.
 */
public final class StoredLookups {

    private static final Relation LOADED = new Relation(
            "zk_looked_up",
            "A row of the delivery with the keys that it found, and what identifies those members.",
            RowValidation.ROWS.columns());
    private static final Relation STANDING = Relation.of(
            "zk_standing", "A row of the table, with what identifies the members that its keys point at.", "zk_w*");
    private static final Relation FOUND = Relation.of(
            "zk_found",
            "A row that named a member of its own dimension, by a token, and the key of that member.",
            "zk_token",
            "zk_key");

    /** The rows that look something up. */
    private final String looking;

    private final List<LookupSql> lookups;
    private final List<String> columns;
    private final Dialect dialect;
    private final String target;
    private final boolean fills;
    private final boolean adds;

    /**
     * @param fills whether attributes are filled in the table's rows: see {@link AddedAttributes}
     * @param adds whether rows that end a member may add it
     */
    public StoredLookups(
            List<MemberLookup> definitions,
            List<LookupSql> lookups,
            Warehouse warehouse,
            String target,
            boolean fills,
            boolean adds) {
        this.lookups = List.copyOf(lookups);
        this.columns = definitions.stream().map(MemberLookup::column).toList();
        this.dialect = warehouse.dialect();
        this.target = target;
        this.fills = fills;
        this.adds = adds;
        this.looking = "(select * from " + ROWS + " as l where " + RowValidation.states(adds, "l") + ")";
    }

    private boolean any() {
        return !lookups.isEmpty();
    }

    /** The rows of a delivery as they are loaded. */
    public Relation rows() {
        return any() ? LOADED : DELIVERY;
    }

    /** The rows of the table as they stand, with attributes that are filled now. */
    public String stored() {
        return fills ? Scratch.STORED.name() : target;
    }

    /** The same with what identifies the members that their keys point at. */
    public String standing() {
        return any() ? STANDING.name() : stored();
    }

    /** Looks everything up; {@link Scratch} rows then have the keys. */
    public List<Step> steps() {
        if (!any()) {
            return List.of();
        }
        LookupSteps lookupSteps = new LookupSteps(lookups, dialect);
        List<Step> steps = new ArrayList<>(lookupSteps.steps(looking));
        steps.addAll(Step.asking(lookupSteps.guards(looking)));
        steps.add(new Step.Keep(
                Step.caption("looked up", "The rows with the keys that they found, and what identifies those members."),
                LOADED,
                loadedRows()));
        steps.add(new Step.Name(
                Step.caption("rows", "The rows that take part."),
                ROWS,
                "select l.*\nfrom " + LOADED + " as l\nwhere " + dialect.lacks(OUT.name(), "l")));
        return steps;
    }

    /** Names {@link #standing}. */
    public List<Step> standingSteps() {
        return any()
                ? List.of(new Step.Name(
                        Step.caption(
                                "standing rows",
                                "The rows of the table with what identifies the members that their keys point at."),
                        STANDING,
                        standingRows()))
                : List.of();
    }

    private String standingRows() {
        List<String> identity = new ArrayList<>();
        List<String> joins = new ArrayList<>();
        for (int index = 0; index < lookups.size(); index++) {
            String stored = dialect.column("t", columns.get(index));
            identity.addAll(lookups.get(index).identity().stored(stored));
            joins.add(lookups.get(index).identity().join(stored));
        }
        return "select t.*,\n  " + String.join(",\n  ", identity) + "\nfrom " + stored() + " as t\n"
                + String.join("\n", joins);
    }

    private String loadedRows() {
        List<String> found = new ArrayList<>();
        for (int index = 0; index < lookups.size(); index++) {
            LookupSql lookup = lookups.get(index);
            found.add("case when r.zk_row is not null then " + lookup.stored("r") + " end as "
                    + dialect.quote(columns.get(index)));
            found.addAll(lookup.identity().found());
        }
        if (adds) {
            found.add(Scratch.adds("d.zk_row") + " as zk_adds");
        }
        return "select d.*,\n  " + String.join(",\n  ", found) + "\nfrom " + DELIVERY + " as d\nleft join " + RESOLVED
                + " as r on r.zk_row = d.zk_row";
    }

    /** What replaces tokens by keys, when all rows are written; a plan of its own, since it reads them. */
    public List<Plan> resolutions() {
        List<Plan> plans = new ArrayList<>();
        for (int index = 0; index < lookups.size(); index++) {
            if (lookups.get(index).within()) {
                plans.add(resolution(lookups.get(index), columns.get(index)));
            }
        }
        return plans;
    }

    private Plan resolution(LookupSql lookup, String column) {
        Step found = new Step.Keep(
                Step.caption(
                        "members of this delivery, lookup " + lookup.lookup().role(),
                        "Rows that named a member of their own dimension, and the key that it has now."),
                FOUND,
                lookup.resolving(LOADED.name()),
                Optional.of(Scratch.ANY_WRITTEN));
        TableChange named = new TableChange.Rewrite(
                Step.caption(
                        "keys of members of this delivery, lookup "
                                + lookup.lookup().role(),
                        "Rows that named a member of their own dimension get its key, now that all rows are written."),
                target,
                new Matching(FOUND, dialect.column("t", column) + " = c.zk_token"),
                Map.of(column, "c.zk_key"));
        return Plan.after(Step.asking(List.of(found)), List.of(Change.of(named, Scratch.ANY_WRITTEN)));
    }

    public Optional<LookupTally> tally() {
        return new LookupSteps(lookups, dialect).tally().found();
    }

    /** The natural key of the member that a key points at, for readers. */
    public String shown(DimensionColumn column, String alias) {
        int index = columns.indexOf(column.name());
        return lookups.get(index).shown(dialect.column(alias, column.name()), LOADED.name());
    }
}
