package dev.zeitkammer.verify;

import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.fact.DatedLookups;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** What must hold for a fact table. */
final class FactProofs {

    private final Fact fact;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String table;

    FactProofs(Fact fact, Warehouse warehouse) {
        this.fact = fact;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.table = warehouse.table(fact.table());
    }

    List<Proof> all() {
        List<String> grainNames = fact.grain().stream().map(fact::grainColumn).toList();
        String grain = dialect.columns(grainNames);
        List<Proof> proofs = new ArrayList<>();
        if (!fact.grain().isEmpty()) {
            proofs.add(new Proof(
                    "the grain is unique",
                    "select %s, count(*) as times from %s group by %s having count(*) > 1"
                            .formatted(grain, table, grain)));
        }
        for (Lookup lookup : fact.lookups()) {
            String key = dialect.quote(lookup.keyColumn());
            String dimension = lookup.dimension().table();
            proofs.add(new Proof(
                    lookup.keyColumn() + " is never null", "select * from %s where %s is null".formatted(table, key)));
            proofs.add(new Proof(
                    lookup.keyColumn() + " is in " + dimension,
                    Sql.of(
                                    "select ${grain}, zk_f.${key} from ${table} as zk_f where zk_f.${key} is not null and not exists (select 1 from ${dimension} as d where d.${dimension_key} = zk_f.${key})")
                            .with(
                                    "grain",
                                    dialect.list(
                                            grainNames.isEmpty() ? List.of(lookup.keyColumn()) : grainNames,
                                            name -> dialect.column("zk_f", name)))
                            .with("key", key)
                            .with("table", table)
                            .with("dimension", warehouse.table(dimension))
                            .with(
                                    "dimension_key",
                                    dialect.quote(lookup.dimension().keyColumn()))
                            .text()));
            ofStoredDay(lookup).ifPresent(proofs::add);
            lookup.memberColumn()
                    .ifPresent(name -> proofs.add(
                            new Proof(name + " is of the member of " + lookup.keyColumn(), memberKeys(lookup, name))));
        }
        boolean areAligned = fact.lookups().stream()
                .map(Lookup::dimension)
                .allMatch(dimension -> Verifier.isStamped(dimension, warehouse.columns(dimension.table())));
        if (!areAligned) {
            return proofs;
        }
        DatedLookups.misplaced(fact, warehouse)
                .forEach((role, query) -> proofs.add(new Proof(
                        fact.lookup(role).orElseThrow().keyColumn()
                                + " is the version that was valid at the fact's date",
                        query)));
        return proofs;
    }

    /** A key of a calendar is that of the day that the same fact stores, where it stores the one it was found by. */
    private Optional<Proof> ofStoredDay(Lookup lookup) {
        if (lookup.dimension().kind() != Kind.CALENDAR
                || fact.isFed(lookup.role().text())) {
            return Optional.empty();
        }
        return fact.stored(lookup.match().get(0))
                .map(Word::text)
                .filter(stored -> warehouse.columns(fact.table()).stream()
                        .anyMatch(column -> column.name().equalsIgnoreCase(stored)
                                && column.type().isMoment()))
                .map(stored -> new Proof(
                        lookup.keyColumn() + " is of the day in " + stored,
                        Sql.of("""
                                select zk_f.${key}, ${stored}, ${day} as of_calendar
                                from ${table} as zk_f
                                join ${dimension} as d on ${dimension_key} = zk_f.${key}
                                where ${day} is not null and ${stored_day} <> ${day}""")
                                .with("key", dialect.quote(lookup.keyColumn()))
                                .with("stored", dialect.column("zk_f", stored))
                                .with("stored_day", dialect.cast(dialect.column("zk_f", stored), SqlType.DATE))
                                .with(
                                        "day",
                                        dialect.column(
                                                "d",
                                                lookup.dimension().key().get(0).text()))
                                .with("table", table)
                                .with(
                                        "dimension",
                                        warehouse.table(lookup.dimension().table()))
                                .with(
                                        "dimension_key",
                                        dialect.column("d", lookup.dimension().keyColumn()))
                                .text()));
    }

    private String memberKeys(Lookup lookup, String memberColumn) {
        return Sql.of("""
                select f.${key}, f.${stored}, d.${member_key} as of_member
                from ${table} as f
                join ${dimension} as d on d.${dimension_key} = f.${key}
                where ${differs}""")
                .with(
                        "differs",
                        dialect.differs(
                                dialect.column("d", lookup.dimension().memberKeyColumn()),
                                dialect.column("f", memberColumn)))
                .with("key", dialect.quote(lookup.keyColumn()))
                .with("stored", dialect.quote(memberColumn))
                .with("member_key", dialect.quote(lookup.dimension().memberKeyColumn()))
                .with("table", table)
                .with("dimension", warehouse.table(lookup.dimension().table()))
                .with("dimension_key", dialect.quote(lookup.dimension().keyColumn()))
                .text();
    }
}
