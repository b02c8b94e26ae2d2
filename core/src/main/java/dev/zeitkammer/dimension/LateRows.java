package dev.zeitkammer.dimension;

import static dev.zeitkammer.step.Sieve.OUT;
import static dev.zeitkammer.step.Sieve.ROWS;

import dev.zeitkammer.definition.History.Late;
import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.step.Step;
import java.util.Locale;
import java.util.Optional;

/** Late rows where the definition does not want them spliced. */
final class LateRows {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final VersionColumns columns;

    LateRows(DimensionTable table, Dialect dialect, String target) {
        this.table = table;
        this.dialect = dialect;
        this.target = target;
        this.columns = new VersionColumns(table, dialect);
    }

    /** What to do about late rows that would change something, where the definition does not want them spliced. */
    Optional<Step> step() {
        return switch (table.definition().history().late()) {
            case SPLICE -> Optional.empty();
            case SET_ASIDE ->
                Optional.of(new Step.Append(
                        Step.caption("late rows", "Late rows that would change something are set aside."),
                        OUT,
                        "select r.zk_row, " + Outcome.SET_ASIDE.sql() + ", 'late', "
                                + dialect.text(effectiveName()) + ", cast(r.zk_effective as varchar)\n"
                                + lateChanges()));
            case STOP ->
                Optional.of(new Step.Guard(
                        Step.caption("late rows", "Late rows that would change something stop the load."),
                        "select count(*), min(cast(r.zk_effective as varchar)), min(" + memberText() + ")\n"
                                + lateChanges() + "\nhaving count(*) > 0",
                        this::lateWords));
        };
    }

    private String effectiveName() {
        return table.definition().history().effective().orElseThrow().text();
    }

    private String memberText() {
        return table.keys().stream()
                .map(key -> "cast(" + dialect.column("r", key) + " as varchar)")
                .reduce((left, right) -> left + " || ', ' || " + right)
                .orElseThrow();
    }

    private String lateWords(Row row) {
        return Counted.rows(row.number(1)) + " came late and would change history (late: "
                + Late.STOP.name().toLowerCase(Locale.ROOT)
                + "), such as " + String.join(", ", table.keys()) + " " + row.text(3) + " with " + effectiveName() + " "
                + row.text(2) + " and later; set history: late: to splice or set-aside to let them through";
    }

    private String lateChanges() {
        return """
                from %s as r
                join %s as c on %s and %s
                where r.zk_effective < %s
                  and r.zk_deletes = exists (
                    select 1 from %s as v
                    where %s
                      and %s <= r.zk_effective
                      and ((%s and not %s) or r.zk_effective < %s)
                      and (r.zk_deletes or not %s))""".formatted(
                        ROWS,
                        target,
                        dialect.allEqual(table.keys(), "r", "c"),
                        columns.own("c", Role.IS_CURRENT),
                        columns.latest("c"),
                        target,
                        dialect.allEqual(table.keys(), "v", "r"),
                        columns.own("v", Role.VALID_FROM),
                        columns.own("v", Role.IS_CURRENT),
                        columns.own("v", Role.IS_DELETED),
                        columns.ended("v"),
                        dialect.anyDiffers(table.compared(Role.TYPE_2), "v", "r"));
    }
}
