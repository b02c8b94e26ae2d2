package dev.zeitkammer.dimension.current;

import static dev.zeitkammer.dimension.table.Scratch.CHANGES;
import static dev.zeitkammer.dimension.table.Scratch.FILLED;
import static dev.zeitkammer.dimension.table.Scratch.JUDGED;
import static dev.zeitkammer.dimension.table.Scratch.MATCH;
import static dev.zeitkammer.dimension.table.Scratch.STORED;
import static dev.zeitkammer.step.RowValidation.DUPLICATE_KEYS;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionLoading;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Outcome;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * Attributes that were added to a table in which members stood already. A current version that was made before has never been
 * told their values; the first that it is told is filled in without opening a version, and the row counts as corrected.
 */
public final class AddedAttributes {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final Stamp stamp;
    private final StoredLookups lookedUp;
    private final Map<String, Long> addedBy;
    private final List<DimensionColumn> columns;

    /** @param addedBy columns that were added later, each with the load before which they were not there */
    public AddedAttributes(DimensionLoading loading, Map<String, Long> addedBy) {
        this.table = loading.table();
        this.dialect = loading.dialect();
        this.target = loading.target();
        this.stamp = loading.stamp();
        this.lookedUp = loading.lookups();
        this.addedBy = Map.copyOf(addedBy);
        this.columns = columns(table, addedBy);
    }

    private static List<DimensionColumn> columns(DimensionTable table, Map<String, Long> addedBy) {
        return table.in(Role.TYPE_0, Role.TYPE_2)
                .filter(column -> addedBy.containsKey(column.name()))
                .toList();
    }

    /** Whether there are such attributes. */
    public static boolean any(DimensionTable table, Map<String, Long> addedBy) {
        return !columns(table, addedBy).isEmpty();
    }

    public boolean any() {
        return !columns.isEmpty();
    }

    private String isUntold(DimensionColumn column, String alias) {
        return dialect.column(alias, table.name(Role.INSERTED_BY)) + " < " + addedBy.get(column.name()) + " and "
                + dialect.column(alias, column.name()) + " is null";
    }

    private String fills(DimensionColumn column) {
        return "(" + isUntold(column, "c") + " and " + dialect.column("r", column.name()) + " is not null)";
    }

    public List<Step> steps() {
        if (!any()) {
            return List.of();
        }
        String key = dialect.column("c", table.name(Role.SURROGATE));
        String current = table.hasHistory() ? " and " + table.holds(dialect, "c", Role.IS_CURRENT) : "";
        String notLate = table.hasHistory() && table.hasEffective()
                ? " and r.zk_effective >= " + dialect.column("c", table.name(Role.LAST_STATED))
                : "";
        String filled = Sql.of("""
                select *
                from (
                  select ${key} as zk_key, r.zk_row, ${values},
                    row_number() over (partition by ${key} order by r.zk_effective, r.zk_row) as zk_nth
                  from ${rows} as r
                  join ${target} as c on ${r_is_c}${current}
                  where not r.zk_deletes${not_late} and (${any_filled})
                ) as told
                where zk_nth = 1""")
                .with(ROWS)
                .with("key", key)
                .with("values", dialect.list(columns, column -> dialect.column("r", column.name())))
                .with("target", target)
                .with("r_is_c", dialect.allEqual(table.keys(), "r", "c"))
                .with("current", current)
                .with("not_late", notLate)
                .with("any_filled", columns.stream().map(this::fills).collect(Collectors.joining(" or ")))
                .text();
        return List.of(
                new Step.Keep(
                        Step.caption(
                                "untold attributes",
                                "Current versions that were made before an attribute was added, and are told its value now."),
                        FILLED,
                        filled),
                new Step.Name(
                        Step.caption("stored rows", "The rows of the table, with these values filled in."),
                        STORED,
                        stored()));
    }

    /** The rows of the table with the values that are filled in. */
    private String stored() {
        List<String> names = table.columns().stream().map(DimensionColumn::name).toList();
        Set<String> filled = columns.stream().map(DimensionColumn::name).collect(Collectors.toSet());
        String selected = dialect.list(
                names,
                name -> filled.contains(name)
                        ? "case when f.zk_key is null then " + dialect.column("t", name) + " else " + filled(name)
                                + " end as " + dialect.quote(name)
                        : dialect.column("t", name));
        return "select " + selected + "\nfrom " + target + " as t\nleft join " + FILLED + " as f on f.zk_key = "
                + dialect.column("t", table.name(Role.SURROGATE));
    }

    private String filled(String name) {
        DimensionColumn column = columns.stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow();
        return "case when " + isUntold(column, "t") + " then " + dialect.column("f", name) + " else "
                + dialect.column("t", name) + " end";
    }

    /** Values are filled in; no version is opened for them. */
    public List<Change<TableChange>> changes() {
        if (!any()) {
            return List.of();
        }
        Map<String, String> set = new LinkedHashMap<>();
        columns.forEach(column -> set.put(
                column.name(),
                "case when " + isUntold(column, "t") + " then " + dialect.column("c", column.name()) + " else "
                        + dialect.column("t", column.name()) + " end"));
        set.put(table.name(Role.UPDATED_AT), dialect.timestamp(stamp.at()));
        set.put(table.name(Role.UPDATED_BY), String.valueOf(stamp.load()));
        return List.of(Change.of(
                new TableChange.Rewrite(
                        Step.caption("fill attributes", "The value is filled in; no version is opened for it."),
                        target,
                        new Matching(FILLED, "c.zk_key = " + dialect.column("t", table.name(Role.SURROGATE))),
                        set),
                Flag.any(FILLED)));
    }

    /** The outcomes of rows that went the short way, under a condition; what was only filled is corrected. */
    public String outcomes(String condition) {
        String matched = "select zk_row, zk_outcome from " + MATCH + " where " + condition;
        if (!any()) {
            return matched;
        }
        String alone = table.canBeRebuilt()
                ? " and not exists (select 1 from " + ROWS + " as r join " + DUPLICATE_KEYS + " as k on "
                        + dialect.allEqual(table.keys(), "k", "r") + " where r.zk_row = zk_f.zk_row)"
                : "";
        return matched + "\nunion all\nselect zk_f.zk_row, " + Outcome.CORRECTED.sql() + " from " + FILLED
                + " as zk_f where not exists (select 1 from " + MATCH + " as m where m.zk_row = zk_f.zk_row"
                + " and m.zk_outcome <> " + Outcome.UNCHANGED.sql() + ")" + alone;
    }

    /** The same of rows of members whose timeline was rebuilt. */
    public String outcomesRebuilt() {
        return any()
                ? "\nunion all\nselect f.zk_row, " + Outcome.CORRECTED.sql() + " from " + FILLED + " as f join "
                        + JUDGED + " as t on t.zk_row = f.zk_row where t.zk_outcome = " + Outcome.UNCHANGED.sql()
                : "";
    }

    /** A query of the rows inserted and updated. */
    public String written() {
        String inserted = "count(case when zk_change = 'insert' then 1 end) + " + NewMembers.count();
        if (!any()) {
            return "select " + inserted + ", count(case when zk_change in (" + DimensionChanges.UPDATES
                    + ") then 1 end)\nfrom " + CHANGES;
        }
        String key = dialect.quote(table.name(Role.SURROGATE));
        return Sql.of("""
                select ${inserted},
                  (select count(*) from (
                    select ${key} from ${changes} where zk_change in (${updates}) union select zk_key from ${filled}) as updated)
                from ${changes}""")
                .with(CHANGES, FILLED)
                .with("inserted", inserted)
                .with("key", key)
                .with("updates", DimensionChanges.UPDATES)
                .text();
    }

    /** The rows filled, for telling differences: the member, and for each column the value now or null. */
    public String differences(String member, List<DimensionColumn> attributes) {
        if (!any()) {
            return "";
        }
        String values = IntStream.range(0, attributes.size())
                .mapToObj(index -> {
                    DimensionColumn column = attributes.get(index);
                    String now = columns.contains(column)
                            ? dialect.asText(
                                    (column.isLookedUp()
                                            ? lookedUp.shown(column, "zk_f")
                                            : dialect.column("zk_f", column.name())))
                            : dialect.noText();
                    return dialect.noText() + " as zk_old_" + index + ", " + now + " as zk_new_" + index;
                })
                .collect(Collectors.joining(", "));
        return "\nunion all\nselect " + member + ", 'in place', " + values + " from " + FILLED + " as zk_f join " + ROWS
                + " as c on c.zk_row = zk_f.zk_row";
    }
}
