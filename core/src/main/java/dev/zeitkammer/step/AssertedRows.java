package dev.zeitkammer.step;

import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.Wanted;
import java.util.Optional;
import java.util.stream.Collectors;

/** SQL of what is asserted of rows. */
public final class AssertedRows {

    private AssertedRows() {}

    /** Declares the staged columns that an input's assertions need. */
    public static void want(Input input, Wanted wanted) {
        for (Assertion assertion : input.assertions()) {
            assertion.sql().ifPresent(wanted::expression);
            assertion.columns().forEach(column -> wanted.column(column, "assertion", Optional.empty()));
        }
    }

    /** The condition that a row must meet; one that is not known is met. */
    public static String condition(Assertion assertion, Dialect dialect) {
        return switch (assertion.kind()) {
            case ROWS -> Expressions.sql(assertion.sql().orElseThrow());
            case VALUES -> {
                String column = dialect.quote(assertion.columns().get(0).text());
                yield "(" + dialect.asText(column) + " in ("
                        + assertion.values().stream().map(dialect::text).collect(Collectors.joining(", ")) + "))";
            }
            default -> throw new IllegalStateException("no single row fails " + assertion.claim());
        };
    }

    /** A query of what stands several times in columns that are to tell rows apart. */
    public static String twice(Assertion assertion, String rows, Dialect dialect) {
        String columns =
                dialect.columns(assertion.columns().stream().map(Word::text).toList());
        return "select " + columns + ", count(*) as times from " + rows + " group by " + columns
                + " having count(*) > 1";
    }

    /** A relation of a table's rows; of a dimension, those of members that its source brought. */
    public static String ofTable(Definition definition, Warehouse warehouse) {
        String table = warehouse.table(definition.table());
        if (!(definition instanceof Dimension)) {
            return table + " as t";
        }
        Dialect dialect = warehouse.dialect();
        return "(select * from " + table + " where "
                + dialect.quote(definition.conventions().column(AuditColumn.ROW_ORIGIN)) + " = 'source') as t";
    }
}
