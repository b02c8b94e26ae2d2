package dev.zeitkammer.dimension.members;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.TableChange.Matching;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.Differences;
import dev.zeitkammer.step.Differences.Changing;
import dev.zeitkammer.step.Differences.Rows;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * Keeps keys of type 1 at the newest version of the member that they point at (docs/rules.md, "Lookups of other members"). Only
 * after a member of the other dimension changed is there anything to do.
 */
public final class NewestVersions {

    /** The name of the count of rows that got the key of a newer version. */
    public static final String FOLLOWED = "followed";

    private static final Relation MOVED = Relation.of(
            "zk_newer_versions",
            "A row that points at a version of a member which is no longer its newest one.",
            "zk_row_key",
            "zk_role",
            "zk_new_key");

    private final Dimension dimension;
    private final List<Lookup> lookups;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String lastLoad;

    /**
     * @param lookups those of type 1 whose dimensions have versions
     * @param lastLoad SQL for the number of the last load that loaded the dimension; 0 before the first
     */
    public NewestVersions(Dimension dimension, List<Lookup> lookups, Warehouse warehouse, String lastLoad) {
        this.dimension = dimension;
        this.lookups = List.copyOf(lookups);
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.lastLoad = lastLoad;
    }

    /** What there is to do; empty where no key can follow. */
    public Optional<Plan> plan(Stamp stamp) {
        if (lookups.isEmpty()) {
            return Optional.empty();
        }
        Flag any = lookups.stream().map(this::anyChanged).reduce(Flag::or).orElseThrow();
        Step moved = new Step.Keep(
                Step.caption("newer versions", "Rows whose key of type 1 is not that of the newest version."),
                MOVED,
                lookups.stream().map(this::moved).collect(Collectors.joining("\nunion all\n")),
                Optional.of(any));
        List<Change<TableChange>> changes = new ArrayList<>();
        lookups.forEach(lookup -> changes.add(follow(lookup, stamp)));
        String rows = "(select count(distinct zk_row_key) from " + MOVED + ")";
        Plan.Reading reading = new Plan.Reading(
                differences(),
                List.of(new Counting(List.of(FOLLOWED), "select " + rows)),
                "select 0, " + rows,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.of(Flag.any(MOVED)),
                Optional.of(new Plan.Reading(
                        Differences.NONE,
                        List.of(new Counting(List.of(FOLLOWED), "select 0")),
                        "select 0, 0",
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty())));
        return Optional.of(new Plan(Step.asking(List.of(moved)), changes, List.of(), reading));
    }

    /** The keys that follow, by the member whose row it is. */
    private Differences differences() {
        List<Changing> changing = lookups.stream()
                .map(lookup -> new Changing(lookup.keyColumn(), dialect.column("t", lookup.keyColumn()), "c.zk_new_key")
                        .where("c.zk_role = " + dialect.text(lookup.role().text())))
                .toList();
        String member = dimension.key().stream()
                .map(key -> dialect.asText(dialect.column("t", key.text())))
                .collect(Collectors.joining(" || ', ' || "));
        String from = "from " + MOVED + " as c\njoin " + table(dimension) + " as t on "
                + dialect.column("t", dimension.keyColumn()) + " = c.zk_row_key";
        return Differences.of(dialect, changing, new Rows(member, "'" + FOLLOWED + "'", from));
    }

    private String table(Dimension other) {
        return warehouse.table(other.table());
    }

    private Flag anyChanged(Lookup lookup) {
        return Flag.exists("select 1 from " + table(lookup.dimension()) + " where "
                + dialect.quote(lookup.dimension().conventions().column(AuditColumn.UPDATED_BY)) + " > " + lastLoad);
    }

    private String moved(Lookup lookup) {
        Dimension other = lookup.dimension();
        List<String> keys = other.key().stream().map(Word::text).toList();
        return Sql.of("""
                select t.${key} as zk_row_key, ${role} as zk_role, n.${other_key} as zk_new_key
                from ${dimension} as t
                join ${other} as o on o.${other_key} = t.${column}
                join ${other} as n on ${same_member} and ${is_newest}
                where n.${other_key} <> o.${other_key}${reached}""")
                .with("key", dialect.quote(dimension.keyColumn()))
                .with("role", dialect.text(lookup.role().text()))
                .with("other_key", dialect.quote(other.keyColumn()))
                .with("dimension", table(dimension))
                .with("other", table(other))
                .with("column", dialect.quote(lookup.keyColumn()))
                .with("same_member", dialect.allEqual(keys, "n", "o"))
                .with("is_newest", other.conventions().holds(dialect, "n", AuditColumn.IS_CURRENT))
                .with(
                        "reached",
                        dimension.overwritesCurrentOnly() && dimension.hasHistory()
                                ? " and " + dimension.conventions().holds(dialect, "t", AuditColumn.IS_CURRENT)
                                : "")
                .text();
    }

    private Change<TableChange> follow(Lookup lookup, Stamp stamp) {
        Map<String, String> set = new LinkedHashMap<>();
        set.put(lookup.keyColumn(), "c.zk_new_key");
        set.put(dimension.conventions().column(AuditColumn.UPDATED_AT), dialect.timestamp(stamp.at()));
        set.put(dimension.conventions().column(AuditColumn.UPDATED_BY), String.valueOf(stamp.load()));
        String isRole = "zk_role = " + dialect.text(lookup.role().text());
        return Change.of(
                new TableChange.Rewrite(
                        Step.caption(
                                "newest versions, lookup " + lookup.role(),
                                "A key of type 1 is that of the newest version."),
                        table(dimension),
                        new Matching(
                                MOVED,
                                isRole + " and " + dialect.column("t", dimension.keyColumn()) + " = c.zk_row_key"),
                        set),
                Flag.any(MOVED, isRole));
    }
}
