package dev.zeitkammer.verify;

import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.Assertion.Kind;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.AssertedRows;
import java.util.List;

/** What a definition asserts of its table; totals, which another input says, belong to a load. */
final class AssertionProofs {

    private AssertionProofs() {}

    static List<Proof> of(Definition definition, Warehouse warehouse) {
        return definition.demands().assertions().stream()
                .filter(assertion -> assertion.kind() != Kind.TOTAL)
                .map(assertion -> new Proof(
                        assertion.name() + ": " + assertion.claim(), offending(assertion, definition, warehouse)))
                .toList();
    }

    private static String offending(Assertion assertion, Definition definition, Warehouse warehouse) {
        String rows = AssertedRows.ofTable(definition, warehouse);
        return assertion.kind() == Kind.UNIQUE
                ? AssertedRows.twice(assertion, rows, warehouse.dialect())
                : "select * from " + rows + " where not coalesce("
                        + AssertedRows.condition(assertion, warehouse.dialect()) + ", true)";
    }
}
