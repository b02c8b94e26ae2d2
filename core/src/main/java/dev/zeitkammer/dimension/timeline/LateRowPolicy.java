package dev.zeitkammer.dimension.timeline;

import static dev.zeitkammer.step.RowValidation.OUT;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.History.Late;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.VersionColumns;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.Step;
import java.util.Locale;
import java.util.Optional;

/** Late rows where the definition does not want them spliced. */
final class LateRowPolicy {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final VersionColumns columns;

    LateRowPolicy(DimensionTable table, Dialect dialect, String target) {
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
                        "select zk_r.zk_row, " + Outcome.SET_ASIDE.sql() + ", 'late', "
                                + dialect.text(effectiveName()) + ", " + dialect.asText("zk_r.zk_effective") + "\n"
                                + lateChanges()));
            case STOP ->
                Optional.of(new Step.Guard(
                        Step.caption("late rows", "Late rows that would change something stop the load."),
                        "select count(*), min(" + dialect.asText("zk_r.zk_effective") + "), min(" + memberText() + ")\n"
                                + lateChanges() + "\nhaving count(*) > 0",
                        this::lateWords));
        };
    }

    private String effectiveName() {
        return table.definition().history().effective().orElseThrow().text();
    }

    private String memberText() {
        return table.keys().stream()
                .map(key -> dialect.asText(dialect.column("zk_r", key)))
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
        return Sql.of("""
                from ${rows} as zk_r
                join ${target} as c on ${r_is_c} and ${c_is_current}
                where zk_r.zk_effective < ${c_latest}
                  and zk_r.zk_deletes = (exists (
                    select 1 from ${target} as v
                    where ${v_is_r}
                      and ${v_valid_from} <= zk_r.zk_effective
                      and ((${v_is_current} and not ${v_is_deleted}) or zk_r.zk_effective < ${v_ended})
                      and (zk_r.zk_deletes or not ${states_otherwise})))""")
                .with(ROWS)
                .with("target", target)
                .with("r_is_c", dialect.allEqual(table.keys(), "zk_r", "c"))
                .with("c_is_current", columns.holds("c", Role.IS_CURRENT))
                .with("c_latest", columns.latest("c"))
                .with("v_is_r", dialect.allEqual(table.keys(), "v", "zk_r"))
                .with("v_valid_from", columns.own("v", Role.VALID_FROM))
                .with("v_is_current", columns.holds("v", Role.IS_CURRENT))
                .with("v_is_deleted", columns.holds("v", Role.IS_DELETED))
                .with("v_ended", columns.ended("v"))
                .with("states_otherwise", dialect.anyDiffers(table.compared(Role.TYPE_2), "v", "zk_r"))
                .text();
    }
}
