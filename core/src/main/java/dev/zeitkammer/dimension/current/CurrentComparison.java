package dev.zeitkammer.dimension.current;

import static dev.zeitkammer.step.RowValidation.DUPLICATE_KEYS;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlText;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/**
 * Sets each row beside the current version of its member and says what becomes of it. Every attribute is compared once; the
 * outcome follows from what the comparisons found.
 */
public final class CurrentComparison {

    /** The outcome, inside scratch tables only, of rows whose member's timeline must be rebuilt. */
    public static final String REBUILT = "'rebuilt'";

    private final DimensionTable table;
    private final Dialect dialect;
    private final StoredLookups lookedUp;
    private final Extract extract;

    public CurrentComparison(DimensionTable table, Dialect dialect, StoredLookups lookedUp, Extract extract) {
        this.table = table;
        this.dialect = dialect;
        this.lookedUp = lookedUp;
        this.extract = extract;
    }

    /** A query of the rows that differ from what stands, with their outcomes. */
    public String sql() {
        List<String> differs = new ArrayList<>(List.of("zk_key is null", "zk_overwritten", "zk_opens"));
        if (table.hasHistory() && table.hasEffective()) {
            differs.add("zk_effective <> zk_stated");
        }
        if (table.hasDeletions()) {
            differs.add("zk_deletes");
        }
        if (table.mayHaveEnded()) {
            differs.add("zk_ended");
        }
        differs.add("zk_origin = " + placeholder());
        return """
                select zk_row, zk_key,
                  %s as zk_outcome,
                  %s as zk_overwrites
                from (
                %s
                ) as compared
                where %s""".formatted(
                        outcome(),
                        table.definition().overwritesCurrentOnly() ? "zk_replaced" : "zk_overwritten",
                        SqlText.indented(beside(), 2),
                        String.join(" or ", differs));
    }

    /** Each row with what is known of the current version of its member, and what differs from it. */
    private String beside() {
        Map<String, String> columns = new LinkedHashMap<>();
        columns.put("zk_key", current(Role.SURROGATE));
        columns.put("zk_origin", current(Role.ROW_ORIGIN));
        if (table.definition().deletions().addsUnknown()) {
            columns.put("zk_adds", "zk_r.zk_adds");
        }
        if (table.hasHistory()) {
            columns.put("zk_from", current(Role.VALID_FROM));
        }
        if (table.hasHistory() && table.hasEffective()) {
            columns.put("zk_stated", current(Role.LAST_STATED));
        }
        if (table.mayHaveEnded()) {
            columns.put("zk_ended", table.holds(dialect, "c", Role.IS_DELETED));
        }
        columns.put("zk_overwritten", differs(Role.TYPE_1, Role.TYPE_3));
        if (table.definition().overwritesCurrentOnly()) {
            columns.put("zk_replaced", differs(Role.TYPE_3));
        }
        columns.put("zk_opens", differs(Role.TYPE_2));
        String alone = table.canBeRebuilt()
                ? "\nwhere not exists (select 1 from " + DUPLICATE_KEYS + " as k where "
                        + dialect.allEqual(table.keys(), "k", "zk_r") + ")"
                : "";
        return "select zk_r.zk_row, zk_r.zk_effective, zk_r.zk_deletes,\n  "
                + columns.entrySet().stream()
                        .map(column -> column.getValue() + " as " + column.getKey())
                        .collect(Collectors.joining(",\n  "))
                + "\nfrom " + ROWS + " as zk_r\nleft join " + lookedUp.standing() + " as c on "
                + table.sameMember(dialect, "zk_r", "c") + isCurrent() + alone;
    }

    private String differs(Role... roles) {
        return dialect.anyDiffers(table.compared(roles), "zk_r", "c");
    }

    private String current(Role role) {
        return dialect.column("c", table.name(role));
    }

    private String isCurrent() {
        if (table.definition().kind() == Kind.COMBINATION) {
            return " and " + current(Role.ROW_ORIGIN) + " <> " + dialect.text(RowOrigin.RESERVED.word());
        }
        return table.hasHistory() ? " and " + table.holds(dialect, "c", Role.IS_CURRENT) : "";
    }

    private String placeholder() {
        return dialect.text(RowOrigin.PLACEHOLDER.word());
    }

    private String outcome() {
        List<String> branches = new ArrayList<>();
        if (table.definition().deletions().addsUnknown()) {
            branches.add("zk_adds then "
                    + (table.hasHistory()
                            ? REBUILT
                            : "case when zk_key is null then " + Outcome.NEW.sql() + " else " + Outcome.COMPLETED.sql()
                                    + " end"));
        }
        if (table.hasDeletions()) {
            branches.add("zk_key is null and zk_deletes then " + Outcome.UNCHANGED.sql());
        }
        branches.add("zk_key is null then " + Outcome.NEW.sql());
        branches.add("zk_origin = " + placeholder() + " then "
                + (table.hasDeletions()
                        ? "case when zk_deletes then " + Outcome.UNCHANGED.sql() + " else " + Outcome.COMPLETED.sql()
                                + " end"
                        : Outcome.COMPLETED.sql()));
        branches.addAll(table.hasHistory() ? versioning() : ending());
        branches.add("zk_overwritten then " + Outcome.OVERWRITTEN.sql());
        return "case\n    when " + String.join("\n    when ", branches) + "\n    else " + Outcome.UNCHANGED.sql()
                + "\n  end";
    }

    private List<String> versioning() {
        List<String> branches = new ArrayList<>();
        if (table.mayHaveEnded()) {
            branches.add((table.hasDeletions() ? "zk_deletes or " : "") + "zk_ended then " + REBUILT);
        }
        if (table.hasEffective()) {
            branches.add(
                    "zk_effective < zk_stated or (zk_effective = zk_stated and zk_stated > zk_from and zk_opens) then "
                            + REBUILT);
        }
        branches.add("zk_opens and zk_effective > zk_from then " + Outcome.VERSIONED.sql());
        branches.add("zk_opens then " + Outcome.CORRECTED.sql());
        return branches;
    }

    private List<String> ending() {
        List<String> branches = new ArrayList<>();
        if (table.hasDeletions()) {
            branches.add("zk_deletes and zk_ended then " + Outcome.UNCHANGED.sql());
            branches.add("zk_deletes then " + Outcome.CLOSED.sql());
        }
        if (table.mayHaveEnded()) {
            branches.add("zk_ended then " + (extract == Extract.OLDER ? Outcome.UNCHANGED : Outcome.RETURNED).sql());
        }
        return branches;
    }
}
