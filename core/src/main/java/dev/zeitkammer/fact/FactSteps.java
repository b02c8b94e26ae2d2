package dev.zeitkammer.fact;

import static dev.zeitkammer.lookup.LookupSteps.RESOLVED;
import static dev.zeitkammer.step.Sieve.DELIVERY;
import static dev.zeitkammer.step.Sieve.OUT;
import static dev.zeitkammer.step.Sieve.ROWS;

import dev.zeitkammer.definition.Fact.OnRepeat;
import dev.zeitkammer.definition.Housekeeping;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.lookup.LookupSteps;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.Differences;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Sieve;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** The steps of a fact's load, from the delivery to the rows of the table. */
final class FactSteps {

    private static final String CHANGES = "zk_changes";
    private static final List<String> COUNTED = List.of(
            "staged",
            "new",
            "updated",
            "unchanged",
            "ignored",
            "repeated",
            "setAside",
            "removed",
            "healed",
            "followed");

    private final FactTable table;
    private final List<LookupSql> lookups;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String target;
    private final Stamp stamp;

    FactSteps(FactTable table, List<LookupSql> lookups, Warehouse warehouse, Stamp stamp) {
        this.table = table;
        this.lookups = List.copyOf(lookups);
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
        this.stamp = stamp;
    }

    /** @param delivery the query that makes the rows as the definition loads them */
    Plan plan(String delivery) {
        List<Step> steps = new ArrayList<>();
        steps.addAll(sieve().steps(delivery));
        steps.add(sieve().rows());
        steps.addAll(new LookupSteps(lookups, dialect).steps(ROWS));
        if (table.definition().onRepeat() == OnRepeat.REFUSE) {
            steps.add(refusal());
        }
        steps.add(new Step.Write(
                "changes",
                "Each row beside the fact of its grain; kept where there is none, or where anything differs.",
                dialect.keep(CHANGES, changes())));
        return new Plan(steps, application(), differences(), counts(), written(), Sieve.setAside(), Optional.empty());
    }

    private Sieve sieve() {
        List<String> values = new ArrayList<>(table.valueNames());
        lookups.forEach(lookup -> values.addAll(lookup.inputs()));
        return new Sieve(dialect, table.grainNames(), List.of(), values);
    }

    private Step refusal() {
        String sql = """
                insert into %s
                select r.zk_row, 'setAside', 'repeat', %s, cast(null as varchar)
                from %s as r
                join %s as f on %s""".formatted(
                        OUT,
                        dialect.text(String.join(", ", table.grainNames())),
                        ROWS,
                        target,
                        dialect.allEqual(table.grainNames(), "r", "f"));
        return new Step.Write("repeats", "The definition sets rows aside whose grain is there already.", sql);
    }

    private String changes() {
        StringBuilder columns = new StringBuilder();
        for (String name : table.grainNames()) {
            columns.append("d.").append(dialect.quote(name)).append(", ");
        }
        for (int index = 0; index < lookups.size(); index++) {
            columns.append(lookups.get(index).stored("r")).append(" as ");
            columns.append(dialect.quote(table.keyNames().get(index))).append(", ");
        }
        for (String name : table.valueNames()) {
            columns.append("d.").append(dialect.quote(name)).append(", ");
        }
        String first = dialect.column("f", table.stamp(Housekeeping.INSERTED_BY));
        return """
                select case when %s is null then 'insert' else 'update' end as zk_change, n.*,
                  coalesce(%s, %s) as %s, %s as %s,
                  coalesce(%s, %d) as %s, cast(%d as bigint) as %s
                from (
                  select %sd.zk_row
                  from %s as d
                  join %s as r on r.zk_row = d.zk_row
                ) as n
                left join %s as f on %s
                where %s is null%s""".formatted(
                        first,
                        dialect.column("f", table.stamp(Housekeeping.INSERTED_AT)),
                        dialect.timestamp(stamp.at()),
                        dialect.quote(table.stamp(Housekeeping.INSERTED_AT)),
                        dialect.timestamp(stamp.at()),
                        dialect.quote(table.stamp(Housekeeping.UPDATED_AT)),
                        first,
                        stamp.load(),
                        dialect.quote(table.stamp(Housekeeping.INSERTED_BY)),
                        stamp.load(),
                        dialect.quote(table.stamp(Housekeeping.UPDATED_BY)),
                        columns,
                        ROWS,
                        RESOLVED,
                        target,
                        dialect.allEqual(table.grainNames(), "n", "f"),
                        first,
                        table.definition().onRepeat() == OnRepeat.UPDATE
                                ? " or " + dialect.anyDiffers(table.comparedNames(), "n", "f")
                                : "");
    }

    private Differences differences() {
        List<String> compared = table.comparedNames();
        String values = IntStream.range(0, compared.size())
                .mapToObj(index -> "cast(" + dialect.column("f", compared.get(index)) + " as varchar) as zk_old_"
                        + index + ", cast(" + dialect.column("c", compared.get(index)) + " as varchar) as zk_new_"
                        + index)
                .collect(Collectors.joining(", "));
        String grain = table.grainNames().stream()
                .map(name -> "cast(" + dialect.column("c", name) + " as varchar)")
                .collect(Collectors.joining(" || ', ' || "));
        String pairs = """
                select %s as zk_member, 'in place' as zk_causes%s
                from %s as c
                join %s as f on %s
                where c.zk_change = 'update'""".formatted(
                        grain,
                        values.isEmpty() ? "" : ", " + values,
                        CHANGES,
                        target,
                        dialect.allEqual(table.grainNames(), "c", "f"));
        return new Differences(compared, pairs);
    }

    private List<Step> application() {
        List<String> set = new ArrayList<>(table.comparedNames());
        set.add(table.stamp(Housekeeping.UPDATED_AT));
        set.add(table.stamp(Housekeeping.UPDATED_BY));
        List<String> all = table.columns().stream().map(Column::name).toList();
        return List.of(
                new Step.Write(
                        "update facts",
                        "Rows of the change table are written over the facts of the same grain.",
                        dialect.rewrite(target, CHANGES, set, table.grainNames(), "c.zk_change = 'update'"),
                        Step.any(CHANGES)),
                new Step.Write(
                        "insert facts",
                        "New facts are added.",
                        dialect.append(target, CHANGES, all, "c.zk_change = 'insert'"),
                        Step.any(CHANGES)));
    }

    private List<Counting> counts() {
        boolean ignores = table.definition().onRepeat() == OnRepeat.IGNORE;
        String rest = "staged - repeated - aside - inserted - updated";
        String sql = """
                select staged, inserted, updated, %s, %s, repeated, aside, 0, 0, 0
                from (select count(*) as staged from %s) as d,
                  (
                    select count(case when zk_outcome = 'repeated' then 1 end) as repeated,
                      count(case when zk_outcome = 'setAside' then 1 end) as aside
                    from %s
                  ) as o,
                  (
                    select count(case when zk_change = 'insert' then 1 end) as inserted,
                      count(case when zk_change = 'update' then 1 end) as updated
                    from %s
                  ) as c""".formatted(ignores ? "0" : rest, ignores ? rest : "0", DELIVERY, OUT, CHANGES);
        List<Counting> counts = new ArrayList<>();
        counts.add(new Counting("", COUNTED, sql));
        counts.addAll(new LookupSteps(lookups, dialect).counts());
        return counts;
    }

    private static String written() {
        return "select count(case when zk_change = 'insert' then 1 end), count(case when zk_change = 'update' then 1 end) from "
                + CHANGES;
    }
}
