package dev.zeitkammer.dimension;

import static dev.zeitkammer.lookup.LookupSteps.RESOLVED;
import static dev.zeitkammer.step.Sieve.DELIVERY;
import static dev.zeitkammer.step.Sieve.OUT;
import static dev.zeitkammer.step.Sieve.ROWS;

import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSteps;
import dev.zeitkammer.step.LookupTally;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * The keys of other members that a dimension stores. Staged rows get them, and what identifies the members, as columns; so do
 * the rows of the table, under the name {@link #standing}. A parent may come in the same delivery: what is stored at first is
 * a token of the row, and the key once all rows are written.
 */
final class LookedUp {

    private static final String LOADED = "zk_looked_up";
    private static final String STANDING = "zk_standing";

    private final List<LookupSql> lookups;
    private final List<String> columns;
    private final Dialect dialect;
    private final String target;

    LookedUp(List<MemberLookup> definitions, List<LookupSql> lookups, Dialect dialect, String target) {
        this.lookups = List.copyOf(lookups);
        this.columns = definitions.stream().map(MemberLookup::column).toList();
        this.dialect = dialect;
        this.target = target;
    }

    private boolean any() {
        return !lookups.isEmpty();
    }

    /** The rows of a delivery as they are loaded. */
    String rows() {
        return any() ? LOADED : DELIVERY;
    }

    /** The rows of the table as they stood before the load. */
    String standing() {
        return any() ? STANDING : target;
    }

    /** Looks everything up; {@link Scratch} rows then have the keys. */
    List<Step> steps() {
        if (!any()) {
            return List.of();
        }
        List<Step> steps = new ArrayList<>();
        steps.add(new Step.Write(
                "standing rows",
                "The rows of the table with what identifies the members that their keys point at.",
                dialect.name(STANDING, standingRows())));
        steps.addAll(new LookupSteps(lookups, dialect).steps("(select * from " + ROWS + " where not zk_deletes)"));
        steps.add(new Step.Write(
                "looked up",
                "The rows with the keys that they found, and what identifies those members.",
                dialect.keep(LOADED, loadedRows())));
        steps.add(new Step.Write(
                "rows",
                "The rows that take part.",
                dialect.name(ROWS, "select l.*\nfrom " + LOADED + " as l\nwhere " + dialect.lacks(OUT, "l"))));
        return steps;
    }

    private String standingRows() {
        List<String> identity = new ArrayList<>();
        List<String> joins = new ArrayList<>();
        for (int index = 0; index < lookups.size(); index++) {
            String stored = dialect.column("t", columns.get(index));
            identity.addAll(lookups.get(index).identityStored(stored));
            joins.add(lookups.get(index).identityJoin(stored));
        }
        return "select t.*,\n  " + String.join(",\n  ", identity) + "\nfrom " + target + " as t\n"
                + String.join("\n", joins);
    }

    private String loadedRows() {
        List<String> found = new ArrayList<>();
        for (int index = 0; index < lookups.size(); index++) {
            LookupSql lookup = lookups.get(index);
            found.add("case when r.zk_row is not null then " + lookup.stored("r") + " end as "
                    + dialect.quote(columns.get(index)));
            found.addAll(lookup.identityFound());
        }
        return "select d.*,\n  " + String.join(",\n  ", found) + "\nfrom " + DELIVERY + " as d\nleft join " + RESOLVED
                + " as r on r.zk_row = d.zk_row";
    }

    /** Replaces tokens by keys, when all rows are written. */
    List<Step> resolution() {
        List<Step> steps = new ArrayList<>();
        for (int index = 0; index < lookups.size(); index++) {
            if (lookups.get(index).within()) {
                steps.add(resolution(lookups.get(index), dialect.quote(columns.get(index))));
            }
        }
        return steps;
    }

    private Step resolution(LookupSql lookup, String column) {
        String sql = """
                update %s as t
                set %s = p.zk_key
                from (
                %s
                ) as p
                where t.%s = p.zk_token""".formatted(target, column, SqlText.indented(lookup.resolving(LOADED), 2), column);
        return new Step.Write(
                "members of this delivery, lookup " + lookup.lookup().role(),
                "Rows that named a member of their own dimension get its key, now that all rows are written.",
                sql,
                NewMembers.anyWritten());
    }

    Optional<LookupTally> tally() {
        return new LookupSteps(lookups, dialect).found();
    }

    /** The natural key of the member that a key points at, for readers. */
    String shown(DimensionColumn column, String alias) {
        int index = columns.indexOf(column.name());
        return lookups.get(index).shown(dialect.column(alias, column.name()), LOADED);
    }
}
