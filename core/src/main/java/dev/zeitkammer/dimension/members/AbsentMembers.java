package dev.zeitkammer.dimension.members;

import static dev.zeitkammer.step.RowValidation.DELIVERY;

import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Moments;
import dev.zeitkammer.dimension.table.RowOrigin;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.staging.WaitingRow;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.List;
import java.util.stream.Collectors;

/**
 * Members that a full extract does not deliver end at the load date. Absence is judged only where every row's key could be
 * read; a member whose row was set aside is present. Each absent member becomes a row of the delivery with a negative number.
 */
public final class AbsentMembers {

    private static final int FEWEST = 5;

    /** SQL that puts the rows of absent members, alias {@code d}, before all others. */
    public static final String FIRST = "case when d.zk_row < 0 then 0 else 1 end, ";

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final Stamp stamp;

    public AbsentMembers(DimensionTable table, Dialect dialect, String target, Stamp stamp) {
        this.table = table;
        this.dialect = dialect;
        this.target = target;
        this.stamp = stamp;
    }

    public List<Step> steps() {
        String columns = dialect.columns(table.keys());
        String insert = Sql.of("""
                (zk_row, zk_effective, zk_deletes, ${columns})
                select -row_number() over (order by ${c_surrogate}), ${load_date}, true, ${own_keys}
                ${absent}""")
                .with("columns", columns)
                .with("c_surrogate", own("zk_c", Role.SURROGATE))
                .with("load_date", new Moments(table, dialect).literal(stamp.date()))
                .with("own_keys", dialect.list(table.keys(), key -> dialect.column("zk_c", key)))
                .with("absent", absent())
                .text();
        return List.of(
                new Step.Guard(
                                Step.caption(
                                        "limit of absent members",
                                        "An extract that came empty or half would end most members; more than the limit stop the load."),
                                guard(),
                                this::words)
                        .waivedBy(DimensionGuards.ACCEPT_ABSENT),
                new Step.Append(
                        Step.caption(
                                "absent members", "Members that the extract does not deliver end at the load date."),
                        DELIVERY,
                        insert));
    }

    private String own(String alias, Role role) {
        return dialect.column(alias, table.name(role));
    }

    /** The undeleted members, alias {@code zk_c}. */
    private String undeleted() {
        String current = table.hasHistory() ? table.holds(dialect, "zk_c", Role.IS_CURRENT) + " and " : "";
        return "from " + target + " as zk_c\nwhere " + current + "not " + table.holds(dialect, "zk_c", Role.IS_DELETED)
                + " and " + own("zk_c", Role.ROW_ORIGIN) + " = " + dialect.text(RowOrigin.SOURCE.word());
    }

    private String absent() {
        String unreadable = table.keys().stream()
                .map(key -> dialect.column("u", key) + " is null")
                .collect(Collectors.joining(" or "));
        return undeleted() + "\n  and not exists (select 1 from " + DELIVERY + " as d where not "
                + WaitingRow.hasWaited("d.zk_row") + " and " + dialect.allEqual(table.keys(), "d", "zk_c")
                + ")\n  and not exists (select 1 from " + DELIVERY
                + " as u where " + unreadable + ")";
    }

    private String guard() {
        return """
                select a.n, b.n
                from (select count(*) as n %s) as a,
                  (select count(*) as n %s) as b
                where a.n >= %d and a.n * 100 > b.n * %s""".formatted(
                        absent(),
                        undeleted(),
                        FEWEST,
                        table.definition().deletions().limit().toPlainString());
    }

    private String words(Row row) {
        return row.number(1) + " of the " + row.number(2) + " members of "
                + table.definition().table()
                + " are absent from this extract, more than the limit of "
                + table.definition().deletions().limit().toPlainString()
                + " %; was it cut off? Nothing was changed. If they are really gone, load with "
                + DimensionGuards.ACCEPT_ABSENT;
    }
}
