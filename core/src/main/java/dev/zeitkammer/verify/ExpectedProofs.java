package dev.zeitkammer.verify;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Expectation;
import dev.zeitkammer.definition.Expectation.Kind;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.ExpectedRows;
import java.util.List;

/** What a definition expects of its table; totals, which another input says, belong to a load. */
final class ExpectedProofs {

    private ExpectedProofs() {}

    static List<Proof> of(Definition definition, Warehouse warehouse) {
        return definition.demands().expectations().stream()
                .filter(expectation -> expectation.kind() != Kind.TOTAL)
                .map(expectation -> new Proof(
                        expectation.name() + ": " + expectation.claim(), offending(expectation, definition, warehouse)))
                .toList();
    }

    private static String offending(Expectation expectation, Definition definition, Warehouse warehouse) {
        String rows = ExpectedRows.ofTable(definition, warehouse);
        return expectation.kind() == Kind.UNIQUE
                ? ExpectedRows.twice(expectation, rows, warehouse.dialect())
                : "select * from " + rows + " where not coalesce("
                        + ExpectedRows.condition(expectation, warehouse.dialect()) + ", true)";
    }
}
