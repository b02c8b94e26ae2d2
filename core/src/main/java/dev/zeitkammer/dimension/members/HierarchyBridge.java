package dev.zeitkammer.dimension.members;

import dev.zeitkammer.align.TableShape;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.MemberLookup;
import dev.zeitkammer.dimension.table.DimensionColumn;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.dimension.table.DimensionTable;
import dev.zeitkammer.dimension.table.Scratch;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Collectors;

/**
 * The bridge table of a hierarchy: for every version of a member its ancestors, each by its current version, with their
 * distance; the member itself stands at distance 0. A version's parent is the one that it names; above that, the parents are
 * those of the current versions.
 */
public final class HierarchyBridge {

    private static final String ANCESTOR = "ancestor_key";
    static final String DESCENDANT = "descendant_key";
    private static final String DISTANCE = "distance";
    private static final List<String> COLUMNS = List.of(ANCESTOR, DESCENDANT, DISTANCE);
    private static final Relation PARENTS = Relation.of(
            "zk_parents",
            "A version, with its member's current version and that of the parent that it names.",
            "zk_key",
            "zk_current",
            "zk_parent",
            "zk_is_current",
            "zk_name");
    private static final Relation CLIMBED = Relation.of(
            "zk_climbed",
            "A version with one of its ancestors, how far above it is, and the parent that follows.",
            "zk_descendant",
            "zk_start",
            "zk_ancestor",
            "zk_distance",
            "zk_above");
    private static final int NAMED = 20;

    /** How far is climbed step by step, where a query cannot climb by itself. */
    private static final int MOST_LEVELS = 16;

    private final DimensionTable table;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String target;
    private final String bridge;
    private final String parentKey;

    public HierarchyBridge(DimensionTable table, MemberLookup parent, Warehouse warehouse) {
        this.table = table;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
        this.bridge = warehouse.table(table.definition().bridgeTable());
        this.parentKey = dialect.quote(parent.column());
    }

    public static TableShape shape(Dimension definition) {
        List<Column> columns = List.of(
                new Column(ANCESTOR, SqlType.BIGINT),
                new Column(DESCENDANT, SqlType.BIGINT),
                new Column(DISTANCE, SqlType.INTEGER));
        return TableShape.plain(definition.bridgeTable(), columns, COLUMNS);
    }

    /** What makes the bridge follow the rows that a load writes, or makes it where there is none; a plan of its own, since it reads them. */
    public Plan plan() {
        return isMade() ? plan(Optional.of(Scratch.ANY_WRITTEN)) : anew();
    }

    private boolean isMade() {
        return warehouse.has(table.definition().bridgeTable())
                && warehouse.number("select count(*) from (select 1 as zk_one from " + bridge + " limit 1) as zk_some")
                        > 0;
    }

    /** What makes the bridge anew, whatever was written. */
    public Plan anew() {
        return plan(Optional.empty());
    }

    /**
     * Puts members into the bridge above whom nobody is known to stand: reserved ones, and placeholders.
     *
     * @param rows a relation or subquery
     * @param key its column of their surrogate keys
     */
    static TableChange alone(Dimension dimension, Warehouse warehouse, String rows, String key) {
        return new TableChange.Insert(
                Step.caption(
                        "bridge of " + dimension.table(),
                        "Nobody is known to stand above a member that nobody has delivered."),
                warehouse.table(dimension.bridgeTable()),
                COLUMNS,
                "select " + key + ", " + key + ", 0 from " + rows);
    }

    /** The bridge of a table as it stands; empty without a hierarchy. */
    public static Optional<HierarchyBridge> standing(Dimension definition, Warehouse warehouse) {
        List<Column> existing = warehouse.columns(definition.table());
        Map<String, SqlType> types = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        existing.forEach(column -> types.put(column.name(), column.type()));
        boolean hasVersions = types.containsKey(definition.conventions().column(AuditColumn.IS_CURRENT));
        List<DimensionColumn> keys = definition.key().stream()
                .map(key ->
                        DimensionColumn.plain(key.text(), types.getOrDefault(key.text(), SqlType.VARCHAR), Role.KEY))
                .toList();
        DimensionTable table =
                DimensionTable.of(definition, keys, SqlType.DATE, definition.hasHistory() || hasVersions);
        return definition.hierarchy().map(parent -> new HierarchyBridge(table.keeping(existing), parent, warehouse));
    }

    private Plan plan(Optional<Flag> changed) {
        Step parents = new Step.Keep(
                Step.caption(
                        "parents", "Every version with its member's current version and that of the parent it names."),
                PARENTS,
                parents(),
                changed);
        Step.Guard circle = new Step.Guard(
                Step.caption("no circle among members", "A member that is its own ancestor stops the load."),
                circle(),
                row -> table.definition().table() + " would have members that are their own ancestors: " + row.text(1)
                        + "; mend their parents and deliver them again");
        TableChange empty = new TableChange.Clear(Step.caption("empty bridge", "The bridge is made anew."), bridge);
        TableChange filled = new TableChange.Insert(
                Step.caption("bridge", "Every version with its ancestors."),
                bridge,
                COLUMNS,
                dialect.hasRecursion()
                        ? ancestors()
                        : "select zk_ancestor, zk_descendant, zk_distance from " + CLIMBED);
        Step guarded = changed.map(circle::onlyIf).orElse(circle);
        List<Step> steps = new ArrayList<>();
        if (dialect.hasRecursion()) {
            steps.addAll(Step.asking(List.of(parents, guarded)));
        } else {
            steps.addAll(Step.asking(List.of(parents)));
            steps.addAll(climbing(changed));
            steps.add(guarded);
            steps.add(notTooHigh());
        }
        return Plan.after(steps, List.of(new Change<>(empty, changed), new Change<>(filled, changed)));
    }

    /** The same climb a level at a time; it ends where a member comes back to itself. */
    private List<Step> climbing(Optional<Flag> changed) {
        List<Step> steps = new ArrayList<>();
        steps.add(new Step.Keep(
                Step.caption("climb", "Every version with its own member."),
                CLIMBED,
                "select zk_key as zk_descendant, zk_current as zk_start, zk_current as zk_ancestor, 0 as zk_distance,"
                        + " zk_parent as zk_above from " + PARENTS,
                changed));
        for (int level = 0; level < MOST_LEVELS; level++) {
            String further = furtherThan(level);
            steps.add(new Step.Append(
                    Step.caption("climb to level " + (level + 1), "The ancestors one level higher."),
                    CLIMBED,
                    Sql.of("""
                            select c.zk_descendant, c.zk_start, c.zk_above as zk_ancestor, c.zk_distance + 1 as zk_distance, p.zk_parent as zk_above
                            from ${climbed} as c
                            join ${parents} as p on p.zk_key = c.zk_above
                            where ${further}""").with(CLIMBED, PARENTS).with("further", further).text(),
                    Optional.of(Flag.any(CLIMBED, further))));
        }
        return steps;
    }

    private Step notTooHigh() {
        return new Step.Guard(
                        Step.caption("not too high", "A hierarchy of more levels than are climbed stops the load."),
                        "select count(*) from " + CLIMBED + " where " + furtherThan(MOST_LEVELS),
                        row -> table.definition().table() + " has members with more than " + MOST_LEVELS
                                + " ancestors, which is more than this engine climbs")
                .onlyIf(Flag.any(CLIMBED, furtherThan(MOST_LEVELS)));
    }

    /** Rows of a level that have a parent, and are not back where they began. */
    private static String furtherThan(int level) {
        return "zk_distance = " + level + " and zk_above is not null and (zk_distance = 0 or zk_ancestor <> zk_start)";
    }

    private String key(String alias) {
        return dialect.column(alias, table.name(Role.SURROGATE));
    }

    private String isCurrent(String alias) {
        return table.hasHistory() ? table.holds(dialect, alias, Role.IS_CURRENT) : "true";
    }

    /** zk_key, zk_current, zk_parent (null: it has none), zk_is_current and the member's name. */
    private String parents() {
        String name = table.keys().stream()
                .map(key -> dialect.asText(dialect.column("t", key)))
                .collect(Collectors.joining(" || ', ' || "));
        return Sql.of("""
                select ${t_key} as zk_key, coalesce(${m_key}, ${t_key}) as zk_current, ${c_key} as zk_parent, ${t_is_current} as zk_is_current, ${name} as zk_name
                from ${target} as t
                left join ${target} as m on ${m_is_t} and ${m_is_current}
                left join ${target} as p on ${p_key} = t.${parent_key} and ${p_is_member}
                left join ${target} as c on ${c_is_p} and ${c_is_current}""")
                .with("t_key", key("t"))
                .with("m_key", key("m"))
                .with("p_is_member", table.definition().isMember(key("p")))
                .with("c_key", key("c"))
                .with("t_is_current", isCurrent("t"))
                .with("name", name)
                .with("target", target)
                .with("m_is_t", dialect.allEqual(table.keys(), "m", "t"))
                .with("m_is_current", isCurrent("m"))
                .with("p_key", key("p"))
                .with("parent_key", parentKey)
                .with("c_is_p", dialect.allEqual(table.keys(), "c", "p"))
                .with("c_is_current", isCurrent("c"))
                .text();
    }

    /**
     * A query of what the bridge lacks, and of what it has and should not. What is at a distance follows from what is one level
     * nearer, so that nothing needs to be climbed.
     */
    public String damage() {
        return Sql.of("""
                with parents as (
                  ${parents}
                ), expected as (
                  select zk_current as ancestor_key, zk_key as descendant_key, 0 as distance from parents
                  union all
                  select zk_parent, zk_key, 1 from parents where zk_parent is not null
                  union all
                  select p.zk_parent, b.descendant_key, b.distance + 1
                  from ${bridge} as b
                  join parents as p on p.zk_key = b.ancestor_key
                  where b.distance > 0 and p.zk_parent is not null
                )
                select 'is missing' as damage, zk_e.ancestor_key, zk_e.descendant_key, zk_e.distance
                from expected as zk_e
                where not exists (select 1 from ${bridge} as b where b.ancestor_key = zk_e.ancestor_key
                  and b.descendant_key = zk_e.descendant_key and b.distance = zk_e.distance)
                union all
                select 'is too much', zk_b.ancestor_key, zk_b.descendant_key, zk_b.distance
                from ${bridge} as zk_b
                where not exists (select 1 from expected as e where e.ancestor_key = zk_b.ancestor_key
                  and e.descendant_key = zk_b.descendant_key and e.distance = zk_b.distance)
                union all
                select 'is there twice', ancestor_key, descendant_key, distance
                from ${bridge}
                group by ancestor_key, descendant_key, distance
                having count(*) > 1""").with("parents", parents()).with("bridge", bridge).text();
    }

    /** Members from which one climbs back to themselves; pairs are met once only, so that the climb ends. */
    private String circle() {
        if (!dialect.hasRecursion()) {
            return Sql.of("""
                    select ${names}
                    from (
                      select distinct p.zk_name
                      from ${climbed} as c
                      join ${parents} as p on p.zk_key = c.zk_start
                      where c.zk_ancestor = c.zk_start and c.zk_distance > 0
                      order by 1
                      limit ${most}
                    ) as own
                    having count(*) > 0""")
                    .with(CLIMBED, PARENTS)
                    .with("most", NAMED)
                    .with("names", dialect.joined("zk_name", ", ", "zk_name"))
                    .text();
        }
        return Sql.of("""
                with recursive climbed(zk_start, zk_at) as (
                  select zk_key, zk_parent from ${parents} where zk_is_current and zk_parent is not null
                  union
                  select c.zk_start, p.zk_parent
                  from climbed as c
                  join ${parents} as p on p.zk_key = c.zk_at
                  where c.zk_at <> c.zk_start and p.zk_parent is not null
                ), own(zk_name) as (
                  select p.zk_name
                  from climbed as c
                  join ${parents} as p on p.zk_key = c.zk_start
                  where c.zk_at = c.zk_start
                  order by 1
                  limit ${most}
                )
                select ${names} from own having count(*) > 0""")
                .with(PARENTS)
                .with("most", NAMED)
                .with("names", dialect.joined("zk_name", ", ", "zk_name"))
                .text();
    }

    private String ancestors() {
        return """
                with recursive climbed(zk_descendant, zk_ancestor, zk_distance, zk_above) as (
                  select zk_key, zk_current, 0, zk_parent from %s
                  union all
                  select c.zk_descendant, c.zk_above, c.zk_distance + 1, p.zk_parent
                  from climbed as c
                  join %s as p on p.zk_key = c.zk_above
                )
                select zk_ancestor, zk_descendant, zk_distance from climbed""".formatted(PARENTS, PARENTS);
    }
}
