package dev.zeitkammer.fact;

import static dev.zeitkammer.fact.FactPlan.CHANGES;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.Differences;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Which values of facts change: a fact of the change table against the one that stands. */
final class FactDifferences {

    private final FactTable table;
    private final Dialect dialect;
    private final String target;

    FactDifferences(FactTable table, Dialect dialect, String target) {
        this.table = table;
        this.dialect = dialect;
        this.target = target;
    }

    Differences all() {
        List<String> compared = table.comparedNames();
        String values = IntStream.range(0, compared.size())
                .mapToObj(index -> dialect.asText(dialect.column("f", compared.get(index))) + " as zk_old_"
                        + index + ", " + dialect.asText(dialect.column("c", compared.get(index))) + " as zk_new_"
                        + index)
                .collect(Collectors.joining(", "));
        String grain = table.grainNames().stream()
                .map(name -> dialect.asText(dialect.column("c", name)))
                .collect(Collectors.joining(" || ', ' || "));
        String pairs = Sql.of("""
                select ${grain} as zk_member, 'in place' as zk_causes${old_and_new}
                from ${changes} as c
                join ${target} as f on ${same_grain}
                where c.zk_change = 'update'""")
                .with(CHANGES)
                .with("grain", grain)
                .with("old_and_new", values.isEmpty() ? "" : ", " + values)
                .with("target", target)
                .with("same_grain", dialect.allEqual(table.grainNames(), "c", "f"))
                .text();
        return new Differences(compared, pairs);
    }
}
