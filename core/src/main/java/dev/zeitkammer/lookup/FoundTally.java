package dev.zeitkammer.lookup;

import static dev.zeitkammer.lookup.LookupSteps.RESOLVED;
import static dev.zeitkammer.step.RowValidation.DELIVERY;

import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.lookup.LookupSql.Found;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.LookupTally;
import dev.zeitkammer.step.Step;
import dev.zeitkammer.step.Step.Count.Counted;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;

/** How many rows of a delivery found what in each lookup, and the values that found nobody. */
public final class FoundTally {

    private static final int KEPT = 1000;
    private static final List<Found> NOBODY = List.of(Found.UNMATCHED, Found.BLANK, Found.PLACEHOLDERS);

    private final List<LookupSql> lookups;
    private final Dialect dialect;

    FoundTally(List<LookupSql> lookups, Dialect dialect) {
        this.lookups = lookups;
        this.dialect = dialect;
    }

    List<Step> steps() {
        String found = lookups.stream().map(LookupSql::found).collect(Collectors.joining(", "));
        return steps(
                Step.caption("tally", "How many rows found what, for the books."),
                "select " + found + ", zk_aside, count(*) as zk_rows\nfrom " + RESOLVED + "\ngroup by " + found
                        + ", zk_aside");
    }

    /** @param tallied a query of how many rows ({@code zk_rows}) found the same in all lookups, by {@code zk_aside} */
    List<Step> steps(Caption caption, String tallied) {
        String counted = "with zk_tallied as (\n" + SqlText.indented(tallied, 2) + "\n)\n"
                + lookups.stream().map(this::counted).collect(Collectors.joining("\nunion all\n"));
        List<Counted> all = lookups.stream()
                .flatMap(lookup -> Arrays.stream(Found.values())
                        .map(found ->
                                new Counted(lookup.lookup().role().text(), found.word(), anyFound(lookup, found))))
                .toList();
        return lookups.isEmpty() ? List.of() : List.of(new Step.Count(caption, counted, all));
    }

    private String counted(LookupSql lookup) {
        return Sql.of("""
                select ${role} as zk_role, ${word} as zk_word, sum(zk_rows) as zk_rows
                from zk_tallied
                where ${found} is not null and coalesce(zk_aside, ${number}) >= ${number}
                group by ${found}""")
                .with("role", dialect.text(lookup.lookup().role().text()))
                .with("word", Found.word(lookup.found()))
                .with("found", lookup.found())
                .with("number", lookup.number())
                .text();
    }

    /** The condition that some row found one of the words in a lookup. */
    public static Flag anyFound(LookupSql lookup, Found found) {
        return Flag.any(RESOLVED, lookup.found() + " = " + found.sql());
    }

    /** The values that found nobody, and how many rows had none, of some of the lookups by their roles. */
    private Optional<String> unmatched(Set<String> roles, Function<LookupSql, String> resolved) {
        String each = lookups.stream()
                .filter(lookup -> roles.contains(lookup.lookup().role().text()))
                .map(lookup -> unmatched(lookup, resolved.apply(lookup)))
                .collect(Collectors.joining("\nunion all\n"));
        return each.isEmpty()
                ? Optional.empty()
                : Optional.of("select * from (\n" + each
                        + "\n) as nobody order by zk_rows desc, zk_role, zk_value limit " + KEPT);
    }

    private String unmatched(LookupSql lookup, String resolved) {
        String words = NOBODY.stream().map(Found::sql).collect(Collectors.joining(", "));
        return Sql.of("""
                select ${role} as zk_role, ${word} as zk_found, ${shown_key} as zk_value, count(*) as zk_rows
                from ${resolved} as r
                join ${delivery} as d on d.zk_row = r.zk_row
                where r.${found} in (${words}) and coalesce(r.zk_aside, ${number}) >= ${number}
                group by 2, 3""")
                .with(DELIVERY)
                .with("resolved", resolved)
                .with("role", dialect.text(lookup.lookup().role().text()))
                .with("word", Found.word("r." + lookup.found()))
                .with("shown_key", lookup.shownKey("d"))
                .with("found", lookup.found())
                .with("words", words)
                .with("number", lookup.number())
                .text();
    }

    /** For whom the lookups found nobody. */
    public Optional<LookupTally> found() {
        return found(lookup -> RESOLVED.name());
    }

    /** @param resolved a relation of what rows found in a lookup */
    Optional<LookupTally> found(Function<LookupSql, String> resolved) {
        return lookups.isEmpty()
                ? Optional.empty()
                : Optional.of(new LookupTally(
                        NOBODY.stream().map(Found::word).toList(), roles -> unmatched(roles, resolved)));
    }
}
