package dev.zeitkammer.verify;

import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Lookup;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.List;

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
        String grain = dialect.columns(fact.grain().stream().map(Word::text).toList());
        List<Proof> proofs = new ArrayList<>();
        proofs.add(new Proof(
                "the grain is unique",
                "select %s, count(*) as times from %s group by %s having count(*) > 1".formatted(grain, table, grain)));
        for (Lookup lookup : fact.lookups()) {
            String key = dialect.quote(lookup.role() + "_key");
            String dimension = lookup.dimension().table();
            proofs.add(new Proof(
                    lookup.role() + "_key is never null", "select * from %s where %s is null".formatted(table, key)));
            proofs.add(new Proof(
                    lookup.role() + "_key is in " + dimension,
                    "select %s, f.%s from %s as f where f.%s is not null and not exists (select 1 from %s as d where d.%s = f.%s)"
                            .formatted(
                                    dialect.list(fact.grain(), word -> "f." + dialect.quote(word.text())),
                                    key,
                                    table,
                                    key,
                                    warehouse.table(dimension),
                                    dialect.quote(lookup.dimension().keyColumn()),
                                    key)));
        }
        return proofs;
    }
}
