package dev.zeitkammer.dimension.timeline;

import static dev.zeitkammer.dimension.table.Scratch.MEMBERS;
import static dev.zeitkammer.dimension.table.Scratch.SEQUENCE;
import static dev.zeitkammer.dimension.table.Scratch.SHARED;
import static dev.zeitkammer.dimension.table.Scratch.STOOD;
import static dev.zeitkammer.dimension.table.Scratch.TURNS;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.StoredLookups;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * The values that all versions of a member share whose timeline is rebuilt: types 1 and 3, and the previous values of type 3. The member's latest
 * statement supplies them; previous values, and keys of other members, follow statement by statement.
 */
final class SharedValues {

    private final DimensionTable table;
    private final Dialect dialect;
    private final StoredLookups lookedUp;
    private final List<DimensionColumn> stepwise;

    SharedValues(DimensionTable table, Dialect dialect, StoredLookups lookedUp) {
        this.table = table;
        this.dialect = dialect;
        this.lookedUp = lookedUp;
        this.stepwise = table.in(Role.TYPE_1, Role.TYPE_3)
                .filter(column -> column.role() == Role.TYPE_3 || column.isLookedUp())
                .toList();
    }

    List<Step> steps() {
        List<Step> steps = new ArrayList<>();
        if (!stepwise.isEmpty()) {
            steps.add(RebuiltTimeline.rebuilding(
                    Step.caption(
                            "sequence",
                            "What stood and what was stated since of values that change statement by statement."),
                    SEQUENCE,
                    sequence()));
            steps.add(RebuiltTimeline.rebuilding(
                    Step.caption("turns", "Where in the sequence each of them last changed."), TURNS, turns()));
        }
        steps.add(RebuiltTimeline.rebuilding(
                Step.caption(
                        "shared values", "What all versions of a member share from now on, and whether that is new."),
                SHARED,
                shared()));
        return steps;
    }

    private List<String> followed() {
        return stepwise.stream()
                .flatMap(column -> column.isLookedUp()
                        ? IntStream.range(-1, column.compared().size())
                                .mapToObj(part -> part < 0
                                        ? column.name()
                                        : column.compared().get(part))
                        : column.compared().stream())
                .toList();
    }

    private String sequence() {
        return Sql.of("""
                select *, row_number() over (partition by zk_member order by zk_place, zk_at) as zk_nth
                from (
                  select m.zk_member, 0 as zk_place, m.zk_latest as zk_at, ${standing_values}
                  from ${members} as m
                  join ${stood} as c on ${c_key} = m.zk_current
                  union all
                  select m.zk_member, 1, ${at}, ${stated_values}
                  from ${members} as m
                  join ${rows} as r on ${r_is_m}
                  where ${states} and (m.zk_current is null or ${at} >= m.zk_latest)
                ) as stated""")
                .with(MEMBERS, STOOD, ROWS)
                .with("standing_values", dialect.list(followed(), name -> dialect.column("c", name)))
                .with("c_key", key("c"))
                .with("at", SourceChanges.AT)
                .with("states", table.states("r"))
                .with("stated_values", dialect.list(followed(), name -> dialect.column("r", name)))
                .with("r_is_m", dialect.allEqual(table.keys(), "r", "m"))
                .text();
    }

    private String turns() {
        List<String> lags = new ArrayList<>();
        List<String> turns = new ArrayList<>();
        for (int index = 0; index < stepwise.size(); index++) {
            List<String> differs = new ArrayList<>();
            for (String name : stepwise.get(index).compared()) {
                String lag = "zk_l" + lags.size();
                lags.add("lag(" + dialect.quote(name) + ") over member as " + lag);
                differs.add(dialect.differs(dialect.quote(name), lag));
            }
            turns.add("max(case when zk_nth > 1 and (" + String.join(" or ", differs) + ") then zk_nth end) as "
                    + turn(index));
        }
        return """
                select zk_member, %s
                from (
                  select *, %s
                  from %s
                  window member as (partition by zk_member order by zk_nth)
                ) as lagged
                group by zk_member""".formatted(String.join(", ", turns), String.join(", ", lags), SEQUENCE);
    }

    private static String turn(int index) {
        return "zk_t" + index;
    }

    private String key(String alias) {
        return dialect.column(alias, table.name(Role.SURROGATE));
    }

    /** n: the member's newest staged row; f: its earliest; c: its current version; p0, p1 …: statements before a turn; a0 …: at it. */
    private String shared() {
        List<DimensionColumn> columns =
                table.in(Role.TYPE_1, Role.TYPE_3, Role.PREVIOUS).toList();
        String values = columns.stream()
                .map(column -> ",\n  " + value(column) + " as " + dialect.quote(column.name()))
                .collect(Collectors.joining());
        String overwrites = columns.stream()
                .filter(column ->
                        column.role() != Role.TYPE_1 || !table.definition().overwritesCurrentOnly())
                .map(column -> dialect.differs(value(column), before(column)))
                .collect(Collectors.joining(" or "));
        return Sql.of("""
                select m.zk_member,
                  m.zk_supplies and (${overwrites}) as zk_overwrites${values}
                from ${members} as m
                left join ${delivered} as n on n.zk_row = m.zk_last_row
                left join ${delivered} as f on f.zk_row = m.zk_first_row
                left join ${stood} as c on ${c_key} = m.zk_current${turn_joins}""")
                .with(MEMBERS, STOOD)
                .with("overwrites", overwrites.isEmpty() ? "false" : overwrites)
                .with("values", values)
                .with("delivered", lookedUp.rows())
                .with("c_key", key("c"))
                .with("turn_joins", turnJoins())
                .text();
    }

    private String turnJoins() {
        StringBuilder joins = new StringBuilder();
        if (!stepwise.isEmpty()) {
            joins.append("\nleft join ").append(TURNS).append(" as t on t.zk_member = m.zk_member");
        }
        for (int index = 0; index < stepwise.size(); index++) {
            joins.append(Sql.of(
                            "\nleft join ${sequence} as p${index} on p${index}.zk_member = m.zk_member and p${index}.zk_nth = t.${turn} - 1")
                    .with(SEQUENCE)
                    .with("index", index)
                    .with("turn", turn(index))
                    .text());
            joins.append(Sql.of(
                            "\nleft join ${sequence} as a${index} on a${index}.zk_member = m.zk_member and a${index}.zk_nth = t.${turn}")
                    .with(SEQUENCE)
                    .with("index", index)
                    .with("turn", turn(index))
                    .text());
        }
        return joins.toString();
    }

    private String value(DimensionColumn column) {
        String standing = dialect.column("c", column.name());
        if (column.role() == Role.PREVIOUS) {
            DimensionColumn followed = table.followed(column);
            int index = stepwise.indexOf(followed);
            return "case when t." + turn(index) + " is not null then " + dialect.column("p" + index, followed.name())
                    + " else " + standing + " end";
        }
        if (column.isLookedUp()) {
            int index = stepwise.indexOf(column);
            return "case when t." + turn(index) + " is not null then " + dialect.column("a" + index, column.name())
                    + " when m.zk_current is null then " + dialect.column("f", column.name()) + " else " + standing
                    + " end";
        }
        return dialect.either("m.zk_supplies", dialect.column("n", column.name()), standing);
    }

    /** What stood before; of a new member, what its earliest row says. */
    private String before(DimensionColumn column) {
        String first = column.role() == Role.PREVIOUS
                ? dialect.cast("null", column.type())
                : dialect.column("f", column.name());
        return dialect.either("m.zk_current is null", first, dialect.column("c", column.name()));
    }
}
