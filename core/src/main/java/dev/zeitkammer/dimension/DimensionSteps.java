package dev.zeitkammer.dimension;

import static dev.zeitkammer.dimension.Scratch.CHANGES;
import static dev.zeitkammer.dimension.Scratch.MATCH;
import static dev.zeitkammer.step.Sieve.CROWDED;
import static dev.zeitkammer.step.Sieve.DELIVERY;
import static dev.zeitkammer.step.Sieve.OUT;
import static dev.zeitkammer.step.Sieve.ROWS;

import dev.zeitkammer.dimension.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.Counting;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Sieve;
import dev.zeitkammer.step.Stamp;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * The steps of a dimension's load, from the delivery to the rows of the table. Members with one staged row that is not late go
 * through the steps written here; the others, when there are any, through those of {@link HistorySteps}.
 */
final class DimensionSteps {

    /** The outcome, inside scratch tables only, of rows whose member's history must be told anew. */
    static final String RETOLD = "'retold'";

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;
    private final NewKeys newKeys;
    private final Stamp stamp;
    private final Moments moments;
    private final Sieve sieve;

    DimensionSteps(DimensionTable table, Warehouse warehouse, NewKeys newKeys, Stamp stamp) {
        this.table = table;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
        this.newKeys = newKeys;
        this.stamp = stamp;
        this.moments = new Moments(table, dialect);
        this.sieve = new Sieve(dialect, table.keys(), List.of("zk_effective", "zk_deletes"), table.attributes());
    }

    /**
     * @param delivery the query that makes {@link Sieve#DELIVERY}
     * @param readable whether every line of the delivery could be read, so that an absent member is known to be absent
     */
    Plan plan(String delivery, boolean readable) {
        HistorySteps history = new HistorySteps(table, dialect, target, newKeys, stamp);
        List<Step> steps = new ArrayList<>();
        steps.addAll(sieve.steps(delivery));
        if (table.definition().deletions().absent() && readable) {
            steps.addAll(new AbsentMembers(table, dialect, target, stamp).steps());
        }
        if (!table.hasHistory() && (table.hasEffective() || table.hasDeletions())) {
            steps.add(new Step.Write(
                    "superseded rows",
                    "Without history only the latest row of a member counts.",
                    "insert into " + OUT + "\n" + superseded(),
                    Step.any(CROWDED)));
        }
        steps.add(sieve.rows());
        steps.add(write(
                "comparison",
                "Each row beside the current version of its member; kept where anything differs, null being a value.",
                dialect.keep(MATCH, comparison())));
        steps.add(write(
                "changes",
                "The rows to insert and to update that follow.",
                dialect.keep(CHANGES, inserts() + "\nunion all\n" + updates())));
        if (table.hasHistory() && !table.names(Role.TYPE_1).isEmpty()) {
            steps.add(new Step.Write(
                    "older versions",
                    "Type 1 values are written on every version of a member.",
                    "insert into " + dialect.quote(CHANGES) + "\n" + olderVersions(),
                    Step.any(MATCH)));
        }
        if (table.canBeRetold()) {
            steps.addAll(history.steps());
        }
        return new Plan(
                steps,
                application(),
                new DimensionDifferences(table, dialect, target).all(),
                counts(history),
                written(),
                Sieve.setAside(),
                newKeys.isNumbered() ? Optional.of(highest()) : Optional.empty());
    }

    private static Step write(String name, String purpose, String sql) {
        return new Step.Write(name, purpose, sql);
    }

    private String superseded() {
        String keys = dialect.columns(table.keys());
        return """
                select zk_row, %s, cast(null as varchar), cast(null as varchar), cast(null as varchar)
                from (
                  select zk_row, row_number() over (partition by %s order by zk_effective desc, zk_deletes desc) as zk_nth
                  from (%s) as d
                  join %s as c using (%s)
                ) as numbered
                where zk_nth > 1""".formatted(Outcome.UNCHANGED.sql(), keys, sieve.taking(), CROWDED, keys);
    }

    private String comparison() {
        String key = dialect.column("c", table.name(Role.SURROGATE));
        List<String> compared = table.names(Role.TYPE_1, Role.TYPE_2);
        String moved =
                table.hasHistory() && table.hasEffective() ? " or r.zk_effective <> " + current(Role.LAST_STATED) : "";
        String ended = table.hasDeletions() ? " or r.zk_deletes or " + current(Role.IS_DELETED) : "";
        String alone = table.canBeRetold()
                ? "\n  and not exists (select 1 from " + CROWDED + " as k where "
                        + dialect.allEqual(table.keys(), "k", "r") + ")"
                : "";
        return """
                select r.zk_row, %s as zk_key,
                  %s as zk_outcome,
                  %s as zk_overwrites
                from %s as r
                left join %s as c on %s%s
                where (%s is null or %s%s%s)%s""".formatted(
                        key,
                        outcome(),
                        dialect.anyDiffers(table.names(Role.TYPE_1), "r", "c"),
                        ROWS,
                        target,
                        dialect.allEqual(table.keys(), "r", "c"),
                        table.hasHistory() ? " and " + current(Role.IS_CURRENT) : "",
                        key,
                        dialect.anyDiffers(compared, "r", "c"),
                        moved,
                        ended,
                        alone);
    }

    private String current(Role role) {
        return dialect.column("c", table.name(role));
    }

    private String outcome() {
        List<String> branches = new ArrayList<>();
        if (table.hasDeletions()) {
            branches.add(current(Role.SURROGATE) + " is null and r.zk_deletes then " + Outcome.UNCHANGED.sql());
        }
        branches.add(current(Role.SURROGATE) + " is null then " + Outcome.NEW.sql());
        branches.addAll(table.hasHistory() ? versioning() : ending());
        branches.add(dialect.anyDiffers(table.names(Role.TYPE_1), "r", "c") + " then " + Outcome.OVERWRITTEN.sql());
        return "case\n    when " + String.join("\n    when ", branches) + "\n    else " + Outcome.UNCHANGED.sql()
                + "\n  end";
    }

    private List<String> versioning() {
        List<String> branches = new ArrayList<>();
        String versions = dialect.anyDiffers(table.names(Role.TYPE_2), "r", "c");
        if (table.hasDeletions()) {
            branches.add("r.zk_deletes or " + current(Role.IS_DELETED) + " then " + RETOLD);
        }
        if (table.hasEffective()) {
            String stated = current(Role.LAST_STATED);
            branches.add("r.zk_effective < " + stated + "\n      or (r.zk_effective = " + stated + " and " + stated
                    + " > " + current(Role.VALID_FROM) + " and " + versions + ") then " + RETOLD);
        }
        branches.add(
                versions + " and r.zk_effective > " + current(Role.VALID_FROM) + " then " + Outcome.VERSIONED.sql());
        branches.add(versions + " then " + Outcome.CORRECTED.sql());
        return branches;
    }

    private List<String> ending() {
        if (!table.hasDeletions()) {
            return List.of();
        }
        return List.of(
                "r.zk_deletes and " + current(Role.IS_DELETED) + " then " + Outcome.UNCHANGED.sql(),
                "r.zk_deletes then " + Outcome.CLOSED.sql(),
                current(Role.IS_DELETED) + " then " + Outcome.RETURNED.sql());
    }

    private String inserts() {
        Images images = Images.inserted(table, dialect, moments, stamp)
                .with(Role.SURROGATE, newKeys.ofMatched())
                .from(Role.KEY, "r")
                .withEach(
                        Role.TYPE_0,
                        name -> "case when m.zk_key is null then " + dialect.column("r", name) + " else "
                                + dialect.column("c", name) + " end")
                .from(Role.TYPE_1, "r")
                .from(Role.TYPE_2, "r")
                .with(Role.VALID_FROM, "r.zk_effective")
                .with(Role.LAST_STATED, "r.zk_effective");
        if (table.hasHistory()) {
            images.with(Role.VERSION, "coalesce(" + current(Role.VERSION) + ", 0) + 1");
        }
        return """
                select 'insert' as zk_change, m.zk_row,
                  %s
                from %s as m
                join %s as r on r.zk_row = m.zk_row
                left join %s as c on %s = m.zk_key
                where m.zk_outcome in (%s, %s)""".formatted(
                        images.selectList(),
                        MATCH,
                        DELIVERY,
                        target,
                        current(Role.SURROGATE),
                        Outcome.NEW.sql(),
                        Outcome.VERSIONED.sql());
    }

    private String updates() {
        Images images = Images.existing(table, dialect, "c").touched(stamp).from(Role.TYPE_1, "r");
        if (!table.hasHistory() && table.hasDeletions()) {
            images.withEach(
                            Role.TYPE_1,
                            name -> when(Outcome.CLOSED, dialect.column("c", name), dialect.column("r", name)))
                    .with(Role.IS_DELETED, "m.zk_outcome = " + Outcome.CLOSED.sql());
        }
        if (table.hasHistory()) {
            images.withEach(
                            Role.TYPE_2,
                            name -> when(Outcome.CORRECTED, dialect.column("r", name), dialect.column("c", name)))
                    .with(
                            Role.VALID_TO,
                            when(Outcome.VERSIONED, moments.endBefore("r.zk_effective"), current(Role.VALID_TO)))
                    .with(Role.IS_CURRENT, "m.zk_outcome <> " + Outcome.VERSIONED.sql());
        }
        if (table.hasHistory() && table.hasEffective()) {
            images.with(Role.LAST_STATED, when(Outcome.VERSIONED, current(Role.LAST_STATED), "r.zk_effective"));
        }
        return """
                select case when m.zk_outcome = %s then 'restate' else 'update' end, m.zk_row,
                  %s
                from %s as m
                join %s as r on r.zk_row = m.zk_row
                join %s as c on %s = m.zk_key
                where m.zk_outcome <> %s""".formatted(
                Outcome.UNCHANGED.sql(), images.selectList(), MATCH, DELIVERY, target, current(Role.SURROGATE), RETOLD);
    }

    private static String when(Outcome outcome, String then, String otherwise) {
        return "case when m.zk_outcome = " + outcome.sql() + " then " + then + " else " + otherwise + " end";
    }

    private String olderVersions() {
        Images images = Images.existing(table, dialect, "v").touched(stamp).from(Role.TYPE_1, "r");
        return """
                select 'update', cast(null as bigint),
                  %s
                from %s as m
                join %s as r on r.zk_row = m.zk_row
                join %s as v on %s
                where m.zk_overwrites and m.zk_key is not null and m.zk_outcome <> %s
                  and not %s
                  and %s""".formatted(
                        images.selectList(),
                        MATCH,
                        DELIVERY,
                        target,
                        dialect.allEqual(table.keys(), "r", "v"),
                        RETOLD,
                        dialect.column("v", table.name(Role.IS_CURRENT)),
                        dialect.anyDiffers(table.names(Role.TYPE_1), "r", "v"));
    }

    private Step keysAreNew() {
        String key = dialect.quote(table.name(Role.SURROGATE));
        String sql = """
                select %s
                from %s as c
                where c.zk_change = 'insert'
                group by %s
                having count(*) > 1 or exists (select 1 from %s as t where t.%s = c.%s)
                limit 1""".formatted(key, CHANGES, key, target, key, key);
        return new Step.Guard(
                "new keys",
                "A new row's surrogate key must not have been given to another row.",
                sql,
                Step.any(CHANGES),
                Optional.empty(),
                row -> "The surrogate key " + row.number(1) + " of "
                        + table.definition().table()
                        + " would be given a second time; a surrogate key is never reused, so nothing was loaded");
    }

    private List<Step> application() {
        List<String> key = table.names(Role.SURROGATE);
        List<String> written = table.names(
                Role.TYPE_1,
                Role.TYPE_2,
                Role.VALID_FROM,
                Role.VALID_TO,
                Role.IS_CURRENT,
                Role.VERSION,
                Role.LAST_STATED,
                Role.IS_DELETED,
                Role.UPDATED_AT,
                Role.UPDATED_BY);
        List<Step> steps = new ArrayList<>();
        if (newKeys.canCollide()) {
            steps.add(keysAreNew());
        }
        steps.add(new Step.Write(
                "update rows",
                "Rows of the change table are written over the rows with the same key.",
                dialect.rewrite(target, CHANGES, written, key, "c.zk_change = 'update'"),
                Step.any(CHANGES)));
        if (table.hasHistory() && table.hasEffective()) {
            steps.add(new Step.Write(
                    "restate versions",
                    "Versions that were stated again keep everything but the moment when.",
                    dialect.rewrite(target, CHANGES, table.names(Role.LAST_STATED), key, "c.zk_change = 'restate'"),
                    Step.any(CHANGES)));
        }
        List<String> all = table.columns().stream().map(DimensionColumn::name).toList();
        steps.add(new Step.Write(
                "insert rows",
                "New members and new versions are added.",
                dialect.append(target, CHANGES, all, "c.zk_change = 'insert'"),
                Step.any(CHANGES)));
        return steps;
    }

    private List<Counting> counts(HistorySteps history) {
        String outcomes = """
                select zk_row, zk_outcome from %s where zk_outcome <> 'unchanged'
                union all
                select zk_row, zk_outcome from %s where zk_outcome not in (%s, 'unchanged')""".formatted(OUT, MATCH, RETOLD);
        List<Counting> counts = new ArrayList<>();
        String staged = "(select count(*) from " + DELIVERY + " where zk_row >= 0)";
        counts.add(counted(staged, outcomes, "0", Optional.empty()));
        if (table.canBeRetold()) {
            counts.add(counted("0", history.outcomes(), history.lateRows(), Step.any(Scratch.MEMBERS)));
        }
        return counts;
    }

    /** Counts outcomes other than unchanged; what is left of the staged rows is unchanged. Absent members have negative rows. */
    private static Counting counted(String staged, String outcomes, String late, Optional<String> onlyIf) {
        List<String> names = new ArrayList<>(List.of("staged"));
        List<String> numbers = new ArrayList<>(List.of(staged));
        for (Outcome outcome : Outcome.values()) {
            names.add(outcome.word());
            numbers.add(
                    outcome == Outcome.UNCHANGED
                            ? staged + " - count(case when zk_row >= 0 then 1 end)"
                            : "count(case when zk_row >= 0 and zk_outcome = " + outcome.sql() + " then 1 end)");
        }
        names.addAll(List.of("absent", "late"));
        numbers.addAll(
                List.of("count(case when zk_row < 0 and zk_outcome = " + Outcome.CLOSED.sql() + " then 1 end)", late));
        String sql = "select " + String.join(",\n  ", numbers) + "\nfrom (\n" + outcomes.indent(2) + ") as outcomes";
        return new Counting("", names, sql, onlyIf);
    }

    private static String written() {
        return """
                select count(case when zk_change = 'insert' then 1 end), count(case when zk_change = 'update' then 1 end)
                from %s""".formatted(CHANGES);
    }

    private String highest() {
        return "select coalesce(max(" + dialect.quote(table.name(Role.SURROGATE)) + "), 0) from " + CHANGES
                + " where zk_change = 'insert'";
    }
}
