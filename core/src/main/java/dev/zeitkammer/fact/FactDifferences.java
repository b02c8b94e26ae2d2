package dev.zeitkammer.fact;

import static dev.zeitkammer.fact.FactPlan.CHANGES;
import static dev.zeitkammer.fact.LateArrivingMembers.MOVED;

import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.Differences;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

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

    /** A column that may change, with SQL for its value before and after. */
    private record Changing(String column, String before, String after) {}

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
            changing.add(moving(FactTable.keyName(lookup), moves, "c.zk_key"));
            lookup.memberColumn()
                    .ifPresent(member -> changing.add(moving(member, moves, "coalesce(c.zk_member, c.zk_key)")));
        }
        String from =
                "from " + MOVED + " as c\njoin " + target + " as f on c.zk_grain = " + table.grainText(dialect, "f");
        return differences(changing, "c.zk_why", from);
    }

    private Changing moving(String column, String moves, String after) {
        return new Changing(
                column,
                "case when " + moves + " then " + dialect.column("f", column) + " end",
                "case when " + moves + " then " + after + " end");
    }

    private List<Changing> same(List<String> columns) {
        return columns.stream()
                .map(name -> new Changing(name, dialect.column("f", name), dialect.column("c", name)))
                .toList();
    }

    private String changes(String where) {
        return "from " + CHANGES + " as c\njoin " + target + " as f on "
                + dialect.allEqual(table.grainNames(), "c", "f") + where;
    }

    private Differences differences(List<Changing> changing, String causes, String from) {
        String values = IntStream.range(0, changing.size())
                .mapToObj(index -> ", " + dialect.asText(changing.get(index).before()) + " as zk_old_" + index + ", "
                        + dialect.asText(changing.get(index).after()) + " as zk_new_" + index)
                .collect(Collectors.joining());
        String pairs = Sql.of("""
                select ${grain} as zk_member, ${causes} as zk_causes${old_and_new}
                ${from}""")
                .with(
                        "grain",
                        table.grainNames().stream()
                                .map(name -> dialect.asText(dialect.column("f", name)))
                                .collect(Collectors.joining(" || ', ' || ")))
                .with("causes", causes)
                .with("old_and_new", values)
                .with("from", from)
                .text();
        return new Differences(changing.stream().map(Changing::column).toList(), pairs);
    }
}
