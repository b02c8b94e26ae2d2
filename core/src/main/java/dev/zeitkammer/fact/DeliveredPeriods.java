package dev.zeitkammer.fact;

import static dev.zeitkammer.fact.FactPlan.LOADED;
import static dev.zeitkammer.step.RowValidation.DELIVERY;
import static dev.zeitkammer.step.RowValidation.OUT;

import dev.zeitkammer.definition.Lookup.Blank;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.lookup.LookupSql;
import dev.zeitkammer.staging.WaitingRow;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Snapshots: within the periods that are delivered, a fact that is delivered no more is gone. */
final class DeliveredPeriods {

    private final FactTable table;
    private final List<LookupSql> lookups;
    private final Dialect dialect;
    private final String target;

    DeliveredPeriods(FactLoading loading, List<LookupSql> lookups) {
        this.table = loading.table();
        this.lookups = List.copyOf(lookups);
        this.dialect = loading.dialect();
        this.target = loading.target();
    }

    private boolean hasRoleInGrain() {
        return table.definition().lookups().stream().anyMatch(table.definition()::isGrain);
    }

    /**
     * A fact stays whose grain stands in a row that was set aside. Nothing is judged while there is a row whose grain could not be
     * read.
     */
    String noLongerDelivered() {
        String period = periodName();
        List<String> conditions = new ArrayList<>();
        conditions.add("zk_f.%s in (select p.%s from %s as p where not %s)"
                .formatted(dialect.quote(period), dialect.quote(period), LOADED, WaitingRow.hasWaited("p.zk_row")));
        conditions.add("not exists (select 1 from %s as n where %s)"
                .formatted(hasRoleInGrain() ? LOADED : DELIVERY, dialect.allEqual(table.grainNames(), "n", "zk_f")));
        if (hasRoleInGrain()) {
            String named = grainLookups()
                    .map(lookup -> " " + lookup.identity().joinNamed("zk_u"))
                    .collect(Collectors.joining());
            conditions.add("not exists (select 1 from %s as o join %s as zk_u on zk_u.zk_row = o.zk_row%s where %s)"
                    .formatted(OUT, DELIVERY, named, String.join(" and ", sameNaturalGrain())));
            conditions.add("not exists (select 1 from %s as o join %s as zk_u on zk_u.zk_row = o.zk_row where %s)"
                    .formatted(OUT, DELIVERY, String.join(" and ", sameButForReserved())));
        }
        if (!naturalGrain().isEmpty()) {
            conditions.add("not exists (select 1 from %s as u where %s)"
                    .formatted(
                            DELIVERY,
                            naturalGrain().stream()
                                    .map(name -> dialect.column("u", name) + " is null")
                                    .collect(Collectors.joining(" or "))));
        }
        return "select %s\nfrom %s as zk_f\nwhere %s"
                .formatted(
                        dialect.list(table.grainNames(), name -> dialect.column("zk_f", name)),
                        target,
                        String.join("\n  and ", conditions));
    }

    /** The columns of the delivery without which a fact is not identified: with the natural keys of roles in its grain that must not be blank. */
    private List<String> naturalGrain() {
        List<String> names = new ArrayList<>(table.stagedGrainNames());
        grainLookups()
                .filter(lookup -> lookup.lookup().blank() == Blank.SET_ASIDE)
                .forEach(lookup -> names.addAll(lookup.matches()));
        return names;
    }

    private Stream<LookupSql> grainLookups() {
        return lookups.stream().filter(lookup -> table.definition().isGrain(lookup.lookup()));
    }

    /** Whether a staged row, zk_u, is of the grain of a fact, zk_f: a role by the business key of the member that it stores. */
    private List<String> sameNaturalGrain() {
        List<String> conditions = new ArrayList<>();
        conditions.add("o.zk_outcome in ('setAside', 'waiting')");
        if (!table.stagedGrainNames().isEmpty()) {
            conditions.add(dialect.allEqual(table.stagedGrainNames(), "zk_u", "zk_f"));
        }
        grainLookups()
                .forEach(lookup -> conditions.add(
                        lookup.identity().isNamed(dialect.column("zk_f", FactTable.keyName(lookup.lookup())))));
        return conditions;
    }

    /** Whether a staged row, zk_u, that names nobody may be of the grain of a fact, zk_f, in which a reserved member stands. */
    private List<String> sameButForReserved() {
        List<String> conditions = new ArrayList<>(List.of("o.zk_outcome in ('setAside', 'waiting')"));
        if (!table.stagedGrainNames().isEmpty()) {
            conditions.add(dialect.allEqual(table.stagedGrainNames(), "zk_u", "zk_f"));
        }
        conditions.add(grainLookups()
                .map(LookupSql::lookup)
                .map(role -> role.dimension().isReserved(dialect.column("zk_f", FactTable.keyName(role))))
                .collect(Collectors.joining(" or ", "(", ")")));
        return conditions;
    }

    private String periodName() {
        String column = table.definition().replaces().orElseThrow().text();
        return table.definition()
                .stored(table.definition().replaces().orElseThrow())
                .map(Word::text)
                .or(() -> table.definition().lookups().stream()
                        .filter(lookup -> lookup.match().get(0).text().equals(column))
                        .map(FactTable::keyName)
                        .findFirst())
                .orElse(column);
    }
}
