package dev.zeitkammer.fact;

import static dev.zeitkammer.fact.FactPlan.CHANGES;
import static dev.zeitkammer.fact.LateArrivingMembers.MOVED;

import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.step.Differences;
import dev.zeitkammer.step.Differences.Changing;
import dev.zeitkammer.step.Differences.Rows;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;

/** Which values of facts change: rows of the change table, c, against the facts that stand, f. */
final class FactDifferences {

    private static final String IN_PLACE = "'in place'";

    private final FactTable table;
    private final Dialect dialect;
    private final String target;

    FactDifferences(FactTable table, Dialect dialect, String target) {
        this.table = table;
        this.dialect = dialect;
        this.target = target;
    }

    /** What the rows of the fact's own input change. */
    Differences all() {
        return differences(same(table.comparedNames()), IN_PLACE, changes("\nwhere c.zk_change = 'update'"));
    }

    /** What the rows of a feed change in some columns. */
    Differences fed(List<String> columns) {
        return differences(same(columns), IN_PLACE, changes(""));
    }

    /** The keys of facts that move, since a member or a version has come. */
    Differences moved(List<Lookup> lookups) {
        List<Changing> changing = new ArrayList<>();
        for (Lookup lookup : lookups) {
            String moves = "c.zk_role = " + dialect.text(lookup.role().text());
            changing.add(changing(FactTable.keyName(lookup), "c.zk_key").where(moves));
            lookup.memberColumn()
                    .ifPresent(member -> changing.add(
                            changing(member, "coalesce(c.zk_member, c.zk_key)").where(moves)));
        }
        String from =
                "from " + MOVED + " as c\njoin " + target + " as f on c.zk_grain = " + table.grainText(dialect, "f");
        return differences(changing, "c.zk_why", from);
    }

    private Changing changing(String column, String after) {
        return new Changing(column, dialect.column("f", column), after);
    }

    private List<Changing> same(List<String> columns) {
        return columns.stream()
                .map(name -> changing(name, dialect.column("c", name)))
                .toList();
    }

    private String changes(String where) {
        return "from " + CHANGES + " as c\njoin " + target + " as f on "
                + dialect.allEqual(table.grainNames(), "c", "f") + where;
    }

    private Differences differences(List<Changing> changing, String causes, String from) {
        String grain = table.grainNames().stream()
                .map(name -> dialect.asText(dialect.column("f", name)))
                .collect(Collectors.joining(" || ', ' || "));
        return Differences.of(dialect, changing, new Rows(grain, causes, from));
    }
}
