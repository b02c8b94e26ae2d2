package dev.zeitkammer.lookup;

import static dev.zeitkammer.step.RowValidation.DELIVERY;
import static dev.zeitkammer.step.RowValidation.OUT;
import static dev.zeitkammer.step.RowValidation.ROWS;

import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.lookup.LookupSql.Found;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** The steps that look up all the keys of a delivery in one pass, and what follows from values that find nobody. */
public final class LookupSteps {

    public static final Relation RESOLVED = Relation.of(
            "zk_resolved",
            "What a row found: the key and the word of each lookup, and the lookup that sets the row aside.",
            "zk_row",
            "zk_m*",
            "zk_deletes",
            "zk_k*",
            "zk_g*",
            "zk_f*",
            "zk_aside");

    /** The same before members are made, with the natural keys of which they are made. */
    public static final Relation HELD = new Relation(
            "zk_held",
            "The same, before members are made for those who find nobody, with their natural keys.",
            RESOLVED.columns());

    static final Caption ALL_IN_ONE_PASS =
            Step.caption("lookups", "All lookups in one pass: the key that each found, and how.");

    private final List<LookupSql> lookups;
    private final Dialect dialect;

    private final FoundTally tally;
    private final MissingKeys missing;

    /** @param missing what makes members for values that find nobody */
    public LookupSteps(List<LookupSql> lookups, Dialect dialect, MissingKeys missing) {
        this.lookups = List.copyOf(lookups);
        this.dialect = dialect;
        this.tally = new FoundTally(this.lookups, dialect);
        this.missing = missing;
    }

    /** Lookups that make nobody. */
    public LookupSteps(List<LookupSql> lookups, Dialect dialect) {
        this(lookups, dialect, MissingKeys.NONE);
    }

    /** How many rows found what. */
    public FoundTally tally() {
        return tally;
    }

    /** The same for rows that carry nothing along. */
    public List<Step> steps(String rows) {
        return steps(new Looking(rows, List.of(), false));
    }

    /**
     * Rows that look something up.
     *
     * @param rows their relation
     * @param carried those of their columns that stand beside what they found
     * @param areMany whether a question of a whole dimension is cheaper than one of what they look for
     */
    public record Looking(String rows, List<String> carried, boolean areMany) {}

    List<LookupSql> all() {
        return lookups;
    }

    /** What is asked of the dimensions where the engine cannot stop at more rows than there should be. */
    List<Step> soundness(Looking looking) {
        return cut(looking, resolved(looking.rows(), looking.carried(), lookups))
                        .isPresent()
                ? List.of()
                : Step.asking(lookups.stream()
                        .flatMap(lookup -> unsound(lookup, looking).stream())
                        .toList());
    }

    /** What rows find in some of the lookups, and at most a row more than look, where the engine can stop there. */
    String bounded(Looking looking, List<String> carried, List<LookupSql> some) {
        String resolved = resolved(looking.rows(), carried, some);
        return cut(looking, resolved).orElse(resolved);
    }

    private Optional<String> cut(Looking looking, String resolved) {
        return dialect.atMost(resolved, "select count(*) + 1 from " + looking.rows() + " as looking");
    }

    /** Looks up, keeps what was found, and sees to those who found nobody. */
    public List<Step> steps(Looking looking) {
        String rows = looking.rows();
        List<String> carried = looking.carried();
        List<Step> steps = new ArrayList<>(soundness(looking));
        List<LookupSql> makers =
                lookups.stream().filter(LookupSql::makesMembers).toList();
        Relation looked = makers.isEmpty() ? RESOLVED : HELD;
        List<String> kept = makers.isEmpty() ? carried : withKeys(carried, makers);
        steps.add(new Step.Keep(ALL_IN_ONE_PASS, looked, bounded(looking, kept, lookups)));
        List<Step> judged = new ArrayList<>();
        if (!makers.isEmpty()) {
            judged.add(new Step.Name(
                    Step.caption("lookups named", "What was found, before members are made."),
                    RESOLVED,
                    "select * from " + HELD));
        }
        if (!changesNothing()) {
            judged.addAll(multiplied(looked, rows));
        }
        if (!makers.isEmpty()) {
            judged.addAll(missing.steps());
            judged.add(pointing(makers, carried));
        }
        lookups.stream()
                .filter(lookup -> !lookup.stopping().isEmpty())
                .map(lookup -> stop(lookup).onlyIf(Flag.any(looked, lookup.isAny(looked.name(), lookup.stopping()))))
                .forEach(judged::add);
        lookups.stream()
                .filter(lookup -> !lookup.settingAside().isEmpty())
                .map(lookup -> setAside(lookup, Flag.any(looked, "zk_aside = " + lookup.number())))
                .forEach(judged::add);
        steps.addAll(Step.asking(judged));
        steps.addAll(tally.steps());
        return steps;
    }

    /** Whether some row found nobody in one of some lookups. */
    public static Flag anyUnmatched(List<LookupSql> lookups) {
        return Flag.any(
                HELD,
                lookups.stream()
                        .map(lookup -> lookup.found() + " = " + Found.UNMATCHED.sql())
                        .collect(Collectors.joining(" or ")));
    }

    /** What stands beside what rows found, and the natural keys of members that may have to be made. */
    private static List<String> withKeys(List<String> carried, List<LookupSql> makers) {
        Set<String> all = new LinkedHashSet<>(carried);
        makers.forEach(lookup -> all.addAll(lookup.matches()));
        return List.copyOf(all);
    }

    /** Points the rows at the members that are made. */
    private Step pointing(List<LookupSql> makers, List<String> carried) {
        return new Step.Name(
                Step.caption("members found", "The rows point at the members that are made."),
                RESOLVED,
                pointed(carried),
                Optional.of(anyUnmatched(makers)));
    }

    private String pointed(List<String> carried) {
        List<String> columns = new ArrayList<>(List.of("d.zk_row"));
        List<String> joins = new ArrayList<>();
        carried.forEach(name -> columns.add(dialect.column("d", name)));
        for (LookupSql lookup : lookups) {
            String alias = "m" + lookup.number();
            String key = "d." + lookup.key();
            String found = "d." + lookup.found();
            if (lookup.makesMembers()) {
                String kept = "case when " + alias + ".zk_new_key is null or d.zk_aside is not null then ";
                key = kept + key + " else " + alias + ".zk_new_key end";
                found = dialect.cast(
                        kept + found + " else " + missing.found(lookup).sql() + " end", SqlType.SMALLINT);
                joins.add("\n" + missing.join(lookup, alias));
            }
            columns.add(key + " as " + lookup.key());
            columns.add(found + " as " + lookup.found());
            if (lookup.findsMemberKey()) {
                columns.add("d." + lookup.memberKey());
            }
        }
        return "select " + String.join(",\n  ", columns) + ",\n  d.zk_aside\nfrom " + HELD + " as d"
                + String.join("", joins);
    }

    /** Whether no lookup makes members, stops the load or sets rows aside. */
    public boolean changesNothing() {
        return lookups.stream()
                .allMatch(lookup -> !lookup.makesMembers()
                        && lookup.stopping().isEmpty()
                        && lookup.settingAside().isEmpty());
    }

    private String resolved(String rows, List<String> carried, List<LookupSql> some) {
        StringBuilder columns = new StringBuilder("d.zk_row");
        carried.forEach(column -> columns.append(", ").append(dialect.column("d", column)));
        StringBuilder joins = new StringBuilder();
        StringBuilder aside = new StringBuilder();
        for (LookupSql lookup : some) {
            columns.append(",\n    ")
                    .append(lookup.keyExpression())
                    .append(" as ")
                    .append(lookup.key());
            lookup.memberKeyExpression()
                    .ifPresent(member -> columns.append(",\n    ")
                            .append(member)
                            .append(" as ")
                            .append(lookup.memberKey()));
            columns.append(",\n    ")
                    .append(lookup.foundExpression())
                    .append(" as ")
                    .append(lookup.found());
            joins.append("\n  ").append(lookup.join());
            if (!lookup.settingAside().isEmpty()) {
                aside.append(" when ").append(lookup.isAny("found", lookup.settingAside()));
                aside.append(" then ").append(lookup.number());
            }
        }
        return """
                select found.*, %s as zk_aside
                from (
                  select %s
                  from %s as d%s
                ) as found""".formatted(aside.isEmpty() ? "cast(null as integer)" : "case" + aside + " end", columns, rows, joins);
    }

    /**
     * What must hold of what was found before anything is written, and while the rows that looked are still the same; nothing where
     * the steps have seen to it already.
     *
     * @param rows the relation of the rows that look something up
     */
    public List<Step> guards(String rows) {
        return changesNothing() ? multiplied(RESOLVED, rows) : List.of();
    }

    private List<Step> multiplied(Relation looked, String rows) {
        return multiplied("(select count(*) from " + looked + ")", count(rows));
    }

    private static String count(String rows) {
        return rows.equals(ROWS.name())
                ? RowValidation.takingNumber()
                : "(select count(*) from " + rows + " as looking)";
    }

    /**
     * What is found is at most a row more than what looks, so that a lookup of two rows ends here and not in the table.
     *
     * @param found SQL for the number of rows that were found
     * @param looking SQL for the number of rows that looked
     */
    List<Step> multiplied(String found, String looking) {
        String count = found + " <> " + looking;
        Flag differs = new Flag("(" + count + ")");
        List<Step> steps = new ArrayList<>();
        lookups.forEach(lookup -> steps.add(multiplied(lookup).onlyIf(differs)));
        if (!lookups.isEmpty()) {
            String roles = lookups.stream()
                    .map(lookup -> lookup.lookup().role().text())
                    .collect(Collectors.joining(", "));
            steps.add(new Step.Guard(
                            Step.caption("one row each", "Every row finds one member in each lookup, or nobody."),
                            "select 1 where " + count,
                            row -> "The lookups (" + roles
                                    + ") find more than one row for some of the rows, or lose some;"
                                    + " a surrogate key stands twice in one of their dimensions: see zeitkammer verify")
                    .onlyIf(differs));
        }
        return steps;
    }

    /** Asks the dimension before rows are multiplied: members that look up two versions, or one version twice. */
    private Optional<Step.Guard> unsound(LookupSql lookup, Looking looking) {
        return lookup.unsound(looking.rows())
                .map(sql -> new Step.Guard(
                        Step.caption(
                                "sound dimension, lookup " + lookup.lookup().role(),
                                "A member whose versions stand twice stops the load, since it would multiply facts."),
                        sql,
                        row -> twoVersions(lookup, row)))
                .map(guard -> looking.areMany() ? guard.onlyIf(Flag.exists(lookup.unsound())) : guard.asked());
    }

    private Step.Guard multiplied(LookupSql lookup) {
        String sql = """
                select min(%s), count(*)
                from %s as r
                join %s as d on d.zk_row = r.zk_row
                group by r.zk_row
                having count(distinct r.%s) > 1
                limit 1""".formatted(lookup.naturalKey("d"), RESOLVED, DELIVERY, lookup.key());
        return new Step.Guard(
                Step.caption(
                        "one version, lookup " + lookup.lookup().role(),
                        "A lookup that finds two rows for one fact stops the load, since it would multiply facts."),
                sql,
                row -> twoVersions(lookup, row));
    }

    private static String twoVersions(LookupSql lookup, Row row) {
        String dimension = lookup.lookup().dimension().table();
        return "The lookup \"" + lookup.lookup().role() + "\" finds more than one row of " + dimension
                + " for the member "
                + row.text(1) + (lookup.lookup().asOf().isPresent() ? " at one date" : "")
                + "; a member has one current version, and versions do not overlap: mend " + dimension
                + ", then load again";
    }

    private Step.Guard stop(LookupSql lookup) {
        String sql = Sql.of("""
                select count(*), min(${natural_key}), min(r.${found})
                from ${resolved} as r
                join ${delivery} as d on d.zk_row = r.zk_row
                where ${stops}
                having count(*) > 0""")
                .with(RESOLVED, DELIVERY)
                .with("natural_key", lookup.naturalKey("d"))
                .with("found", lookup.found())
                .with("stops", lookup.isAny("r", lookup.stopping()))
                .text();
        return new Step.Guard(
                Step.caption(
                        "stop, lookup " + lookup.lookup().role(),
                        "The definition stops the load for values that find no member."),
                sql,
                row -> "The lookup \"" + lookup.lookup().role() + "\" stops the load: "
                        + Counted.rowsHave(row.number(1)) + " a " + lookup.columns()
                        + " that is blank or matches no member of "
                        + lookup.lookup().dimension().table() + ", such as \"" + row.text(2)
                        + "\"; deliver the members first, or choose another unmatched: or blank:");
    }

    private Step setAside(LookupSql lookup, Flag any) {
        String sql = Sql.of("""
                select r.zk_row, ${outcome}, ${reason}, ${column_names}, ${shown_key}
                from ${resolved} as r
                join ${delivery} as d on d.zk_row = r.zk_row
                where r.zk_aside = ${number}""")
                .with(RESOLVED, DELIVERY)
                .with("outcome", lookup.outcome("r", "d"))
                .with(
                        "reason",
                        lookup.endsMembers()
                                ? "case when " + lookup.isAny("r", List.of(Found.ENDED))
                                        + " then 'ended' else 'unmatched' end"
                                : "'unmatched'")
                .with("column_names", dialect.text(lookup.columns()))
                .with(
                        "shown_key",
                        "case when " + lookup.isAny("r", List.of(Found.BLANK)) + " then null else "
                                + lookup.naturalKey("d") + " end")
                .with("number", lookup.number())
                .text();
        return new Step.Append(
                Step.caption(
                        "unmatched, lookup " + lookup.lookup().role(),
                        "The definition sets rows aside whose value finds no member, or lets them wait."),
                OUT,
                sql,
                Optional.of(any));
    }
}
