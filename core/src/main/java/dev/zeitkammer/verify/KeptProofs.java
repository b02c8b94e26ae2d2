package dev.zeitkammer.verify;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.KeptTable;
import java.util.ArrayList;
import java.util.List;

/** What must hold for the table in which an input keeps the latest row of each key. */
final class KeptProofs {

    private KeptProofs() {}

    /** None where nothing is kept yet. */
    static List<Proof> of(Input input, Warehouse warehouse) {
        KeptTable table = new KeptTable(input, warehouse);
        if (table.columns().isEmpty()) {
            return List.of();
        }
        Dialect dialect = warehouse.dialect();
        List<String> keys =
                input.keep().orElseThrow().by().stream().map(Word::text).toList();
        List<Proof> proofs = new ArrayList<>();
        proofs.add(new Proof(
                "a key is kept once",
                Sql.of("select ${keys}, count(*) as times from ${kept} group by ${keys} having count(*) > 1")
                        .with("keys", dialect.columns(keys))
                        .with("kept", table.quoted())
                        .text()));
        if (!table.away().columns().isEmpty()) {
            proofs.add(new Proof(
                    "a key that was taken away is not kept",
                    Sql.of("""
                            select ${keys}
                            from ${kept} as k
                            where exists (select 1 from ${away} as t where ${same})""")
                            .with("keys", dialect.list(keys, name -> dialect.column("k", name)))
                            .with("kept", table.quoted())
                            .with("away", table.away().quoted())
                            .with("same", dialect.allEqual(keys, "k", "t"))
                            .text()));
        }
        return proofs;
    }
}
