package dev.zeitkammer.dimension;

import static dev.zeitkammer.step.RowValidation.DELIVERY;
import static dev.zeitkammer.step.RowValidation.OUT;

import dev.zeitkammer.dimension.current.AddedAttributes;
import dev.zeitkammer.dimension.current.CurrentComparison;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.timeline.RebuiltTimeline;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Counts what became of the rows of a delivery. */
final class OutcomeCounts {

    /** Counted in a query of its own: a server would count once for each place where the name of a number stands. */
    private static final String STAGED = "select count(*) as zk_staged_rows from " + DELIVERY + " where zk_row >= 0";

    private final DimensionTable table;
    private final AddedAttributes newAttributes;

    OutcomeCounts(DimensionTable table, AddedAttributes newAttributes) {
        this.table = table;
        this.newAttributes = newAttributes;
    }

    List<Counting> all(RebuiltTimeline history) {
        String outcomes = """
                select zk_row, zk_outcome from %s where zk_outcome <> 'unchanged'
                union all
                %s""".formatted(
                OUT, newAttributes.outcomes("zk_outcome not in (" + CurrentComparison.REBUILT + ", 'unchanged')"));
        List<Counting> counts = new ArrayList<>();
        counts.add(counted(STAGED, outcomes, "0", Optional.empty()));
        if (table.canBeRebuilt()) {
            counts.add(counted(staged(0), history.outcomes(), history.lateRows(), Optional.of(RebuiltTimeline.ANY)));
        }
        return counts;
    }

    /** Counts rows that are out where no other row changes anything. */
    Counting ofRowsOut() {
        return counted(
                STAGED,
                "select zk_row, zk_outcome from " + OUT + " where zk_outcome <> 'unchanged'",
                "0",
                Optional.empty());
    }

    /** The plan of a dimension to which nothing is delivered. */
    static Plan nothing() {
        return unchanged(0);
    }

    /** The plan of a dimension whose rows all stand as they are to be. */
    static Plan unchanged(long rows) {
        return Plan.NOTHING.counting(List.of(
                counted(staged(rows), "select 0 as zk_row, '' as zk_outcome where false", "0", Optional.empty())));
    }

    private static String staged(long rows) {
        return "select " + rows + " as zk_staged_rows";
    }

    /** Counts outcomes other than unchanged; what is left of the staged rows is unchanged. Absent members have negative rows. */
    private static Counting counted(String staged, String outcomes, String late, Optional<Flag> onlyIf) {
        List<String> names = new ArrayList<>(List.of("staged"));
        List<String> numbers = new ArrayList<>(List.of("zk_staged_rows"));
        List<String> counts = new ArrayList<>(List.of("count(case when zk_row >= 0 then 1 end) as zk_told"));
        for (Outcome outcome : Outcome.values()) {
            names.add(outcome.word());
            if (outcome == Outcome.UNCHANGED) {
                numbers.add("zk_staged_rows - zk_told");
            } else {
                String number = "zk_n" + outcome.ordinal();
                numbers.add(number);
                counts.add(
                        "count(case when zk_row >= 0 and zk_outcome = " + outcome.sql() + " then 1 end) as " + number);
            }
        }
        names.addAll(List.of("absent", "late"));
        numbers.addAll(List.of("zk_absent", late));
        counts.add("count(case when zk_row < 0 and zk_outcome = " + Outcome.CLOSED.sql() + " then 1 end) as zk_absent");
        String sql = Sql.of("""
                select ${numbers}
                from (
                  select ${counts}
                  from (
                ${outcomes}
                  ) as outcomes
                ) as told
                cross join (${staged}) as delivered""")
                .with("numbers", String.join(", ", numbers))
                .with("counts", String.join(",\n    ", counts))
                .with("outcomes", SqlText.indented(outcomes, 4))
                .with("staged", staged)
                .text();
        return new Counting(names, sql, onlyIf);
    }
}
