package dev.zeitkammer.lookup;

import static dev.zeitkammer.lookup.LookupSteps.RESOLVED;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.lookup.LookupSteps.Looking;
import dev.zeitkammer.step.LookupTally;
import dev.zeitkammer.step.RowValidation;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The lookups of a large first delivery. What they find goes straight into the table instead of being kept, and how many rows
 * found what is read off the keys that the table holds then; only lookups whose keys do not tell it are made a second time.
 */
public final class DirectLookups {

    private static final Relation UNTOLD = Relation.of(
            "zk_untold", "How many rows found what in a lookup whose stored keys do not tell it.", "zk_f*", "zk_rows");
    private static final Relation STORED = Relation.of(
            "zk_stored",
            "The facts, and those of them with the key of a reserved member, by lookup and word.",
            "zk_rows",
            "zk_n*");

    private final LookupSteps lookups;
    private final Dialect dialect;
    private final Looking looking;
    private final String target;

    /** @param target the fact's table, which has no rows yet, quoted */
    public DirectLookups(LookupSteps lookups, Dialect dialect, Looking looking, String target) {
        this.lookups = lookups;
        this.dialect = dialect;
        this.looking = looking;
        this.target = target;
    }

    /** What is found, under the name {@link LookupSteps#RESOLVED}. */
    public List<Step> steps() {
        List<Step> steps = new ArrayList<>(lookups.soundness(looking));
        steps.add(new Step.Name(
                LookupSteps.ALL_IN_ONE_PASS, RESOLVED, lookups.bounded(looking, looking.carried(), lookups.all())));
        if (!untold().isEmpty()) {
            steps.add(new Step.Keep(
                    Step.caption("untold", "What rows found in lookups whose stored keys do not tell it."),
                    UNTOLD,
                    untold().stream().map(this::tallied).collect(Collectors.joining("\nunion all\n"))));
        }
        return steps;
    }

    private List<LookupSql> untold() {
        return lookups.all().stream()
                .filter(lookup -> !lookup.storedKey().tells())
                .toList();
    }

    private String tallied(LookupSql lookup) {
        return "select " + foundOf(lookup, lookup.found()) + ", count(*) as zk_rows\nfrom (\n" + of(lookup, List.of())
                + "\n) as looked\ngroup by " + lookup.found();
    }

    /** The columns of what was found: that of a lookup, and null in those of others. */
    private String foundOf(LookupSql lookup, String word) {
        return lookups.all().stream()
                .map(each -> dialect.cast(each == lookup ? word : "null", SqlType.SMALLINT) + " as " + each.found())
                .collect(Collectors.joining(", "));
    }

    /** What the table holds once the rows are written: how many found what, and as many as there should be. */
    public List<Step> lookingBack() {
        if (lookups.all().isEmpty()) {
            return List.of();
        }
        List<Step> steps = new ArrayList<>();
        steps.add(new Step.Keep(
                Step.caption("stored keys", "The facts, and those of them with the key of a reserved member."),
                STORED,
                "select count(*) as zk_rows"
                        + told().map(lookup -> lookup.storedKey().counted("f")).collect(Collectors.joining())
                        + "\nfrom "
                        + target + " as f"));
        steps.addAll(lookups.tally()
                .steps(
                        Step.caption("tally", "How many rows found what, read off the keys that the table holds."),
                        tallied()));
        steps.addAll(lookups.multiplied("(select zk_rows from " + STORED + ")", RowValidation.takingNumber()));
        return steps;
    }

    private Stream<LookupSql> told() {
        return lookups.all().stream().filter(lookup -> lookup.storedKey().tells());
    }

    private String tallied() {
        List<String> parts = new ArrayList<>();
        told().forEach(lookup -> lookup.storedKey()
                .told()
                .forEach((word, rows) -> parts.add(
                        "select " + foundOf(lookup, word.sql()) + ", " + rows + " as zk_rows from " + STORED)));
        if (!untold().isEmpty()) {
            parts.add("select " + dialect.list(lookups.all(), LookupSql::found) + ", zk_rows from " + UNTOLD);
        }
        return "select " + dialect.list(lookups.all(), LookupSql::found)
                + ", cast(null as integer) as zk_aside, zk_rows\nfrom (\n" + String.join("\nunion all\n", parts)
                + "\n) as told\nwhere zk_rows > 0";
    }

    /**
     * A query of what rows find in one lookup.
     *
     * @param carried the columns of the rows that stand beside it
     */
    public String of(LookupSql lookup, List<String> carried) {
        return lookups.bounded(looking, carried, List.of(lookup));
    }

    /** For whom the lookups found nobody. */
    public Optional<LookupTally> found() {
        return lookups.tally().found(lookup -> "(\n" + of(lookup, List.of()) + "\n)");
    }
}
