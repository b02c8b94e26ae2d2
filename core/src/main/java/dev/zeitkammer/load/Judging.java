package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.JudgedAssertion;
import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.Assertion.Control;
import dev.zeitkammer.definition.Assertion.Kind;
import dev.zeitkammer.definition.Assertion.Otherwise;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.Delivery;
import dev.zeitkammer.staging.Earlier;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Staging;
import dev.zeitkammer.staging.Wanted;
import dev.zeitkammer.step.AssertedRows;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Stamp;
import java.math.BigDecimal;
import java.math.MathContext;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** Judges what is expected of the staged rows, and of the table, before a load of it stands. */
final class Judging {

    private static final BigDecimal WHOLE = BigDecimal.valueOf(100);

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final Definition definition;
    private final Staging staging;
    private final Stamp stamp;
    private final Map<Assertion, Optional<BigDecimal>> controls = new HashMap<>();

    Judging(Warehouse warehouse, Definition definition, Staging staging, Stamp stamp) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.definition = definition;
        this.staging = staging;
        this.stamp = stamp;
    }

    /** Reads what totals must equal; before the rows themselves are staged, which take the place of these. */
    void readControls(List<Assertion> assertions, Earlier earlier) {
        assertions.forEach(assertion ->
                assertion.control().ifPresent(control -> controls.put(assertion, controlled(control, earlier))));
    }

    private Optional<BigDecimal> controlled(Control control, Earlier earlier) {
        Optional<Delivery> delivery = staging.delivery(control.input(), stamp.date(), earlier);
        if (delivery.isEmpty()) {
            return Optional.empty();
        }
        Wanted wanted = new Wanted(delivery.get());
        wanted.expression(control.take());
        wanted.throwIfMissing();
        staging.stage(delivery.get(), wanted, earlier);
        List<Optional<BigDecimal>> rows = warehouse.query(
                "select " + dialect.asText(Expressions.sql(control.take())) + " from " + StagedRows.TABLE + " as s",
                row -> Optional.ofNullable(row.text(1)).map(BigDecimal::new));
        if (rows.size() != 1) {
            throw new GuardException(
                    "The input \"" + control.input().name() + "\" says a total, and has " + Counted.rows(rows.size())
                            + " where one is expected: " + delivery.get().shown());
        }
        return rows.get(0);
    }

    /**
     * Judges the staged rows.
     *
     * @param further rows that were staged as well: those that could not be read, and those that wait for a partner
     * @throws GuardException where one of those fails that stop the load
     */
    List<JudgedAssertion> staged(Input input, long further) {
        String rows = "(select * from " + StagedRows.TABLE
                + input.where()
                        .map(where -> " where coalesce(" + Expressions.sql(where) + ", false)")
                        .orElse("")
                + ") as s";
        return judged(input.assertions(), rows, further);
    }

    /** Judges the table as it stands at the end of the load's transaction. */
    List<JudgedAssertion> table() {
        return judged(definition.demands().assertions(), AssertedRows.ofTable(definition, warehouse), 0);
    }

    private List<JudgedAssertion> judged(List<Assertion> assertions, String rows, long further) {
        if (assertions.isEmpty()) {
            return List.of();
        }
        Map<Assertion, BigDecimal> numbers = numbers(assertions, rows);
        List<JudgedAssertion> all = new ArrayList<>();
        assertions.forEach(assertion -> all.add(judged(
                assertion,
                assertion.isOfNumbers()
                        ? numbers.get(assertion).add(BigDecimal.valueOf(further))
                        : numbers.get(assertion))));
        stop(assertions, all, rows);
        return all;
    }

    /** A number for each assertion, all in one query: rows that fail, rows that stand twice, a sum, or rows. */
    private Map<Assertion, BigDecimal> numbers(List<Assertion> assertions, String rows) {
        String selected = assertions.stream()
                .map(assertion -> dialect.asText(number(assertion, rows)))
                .collect(Collectors.joining(", "));
        Map<Assertion, BigDecimal> numbers = new HashMap<>();
        warehouse.query("select " + selected + " from " + rows, row -> {
            for (int index = 0; index < assertions.size(); index++) {
                String number = row.text(index + 1);
                numbers.put(assertions.get(index), number == null ? BigDecimal.ZERO : new BigDecimal(number));
            }
            return true;
        });
        return numbers;
    }

    private String number(Assertion assertion, String rows) {
        return switch (assertion.kind()) {
            case ROWS, VALUES ->
                "count(case when not coalesce(" + AssertedRows.condition(assertion, dialect) + ", true) then 1 end)";
            case UNIQUE ->
                "(select coalesce(sum(times), 0) from (" + AssertedRows.twice(assertion, rows, dialect) + ") as twice)";
            case TOTAL -> Expressions.sql(assertion.sql().orElseThrow());
            case STAGED, AGAINST_LAST -> "count(*)";
        };
    }

    private JudgedAssertion judged(Assertion assertion, BigDecimal number) {
        return switch (assertion.kind()) {
            case ROWS, VALUES, UNIQUE ->
                told(
                        assertion,
                        number.signum() == 0 ? "so in all rows" : Counted.rows(number.longValue()) + " otherwise",
                        number.longValue(),
                        number.signum() == 0);
            case TOTAL -> total(assertion, number);
            case STAGED ->
                told(
                        assertion,
                        Counted.rows(number.longValue()),
                        0,
                        assertion.bounds().hold(number));
            case AGAINST_LAST -> againstLast(assertion, number);
        };
    }

    private JudgedAssertion total(Assertion assertion, BigDecimal sum) {
        Control control = assertion.control().orElseThrow();
        Optional<BigDecimal> wanted = controls.getOrDefault(assertion, Optional.empty());
        if (wanted.isEmpty()) {
            return told(
                    assertion,
                    sum.toPlainString() + ", and " + control.input().name() + " has no delivery that says otherwise",
                    0,
                    false);
        }
        boolean holds = sum.subtract(wanted.get()).abs().compareTo(control.within()) <= 0;
        return told(
                assertion,
                sum.toPlainString()
                        + (holds ? " and " : " instead of ")
                        + wanted.get().toPlainString(),
                0,
                holds);
    }

    private JudgedAssertion againstLast(Assertion assertion, BigDecimal rows) {
        Optional<BigDecimal> last = new Books(warehouse)
                .lastFound(definition.table(), assertion.name().text())
                .map(found -> new BigDecimal(found.split(" ")[0]));
        boolean isFirst = last.isEmpty() || last.get().signum() == 0;
        boolean holds =
                isFirst || assertion.bounds().hold(rows.multiply(WHOLE).divide(last.get(), MathContext.DECIMAL64));
        return told(
                assertion,
                rows.toPlainString() + " rows"
                        + last.map(before -> ", " + before.toPlainString() + " in the last load")
                                .orElse(", and no load before"),
                0,
                holds);
    }

    private static JudgedAssertion told(Assertion assertion, String found, long broken, boolean holds) {
        return new JudgedAssertion(
                assertion.name().text(),
                assertion.claim(),
                found,
                broken,
                assertion.otherwise().name().toLowerCase(Locale.ROOT).replace('_', '-'),
                holds);
    }

    private void stop(List<Assertion> assertions, List<JudgedAssertion> judged, String rows) {
        List<String> broken = new ArrayList<>();
        for (int index = 0; index < judged.size(); index++) {
            Assertion assertion = assertions.get(index);
            JudgedAssertion how = judged.get(index);
            if (!how.holds() && assertion.otherwise() == Otherwise.STOP) {
                broken.add(
                        "\"" + how.name() + "\" (" + how.asserted() + "): " + how.found() + example(assertion, rows));
            }
        }
        if (!broken.isEmpty()) {
            throw new GuardException("What is expected of " + definition.table() + " is not so: "
                    + String.join("; ", broken) + ". Nothing was changed; mend the delivery, or say otherwise: note");
        }
    }

    /** The first row that fails, or what stands twice. */
    private String example(Assertion assertion, String rows) {
        String sql;
        if (assertion.isOfRows()) {
            sql = "select * from " + rows + " where not coalesce(" + AssertedRows.condition(assertion, dialect)
                    + ", true) limit 1";
        } else if (assertion.kind() == Kind.UNIQUE) {
            sql = AssertedRows.twice(assertion, rows, dialect) + " limit 1";
        } else {
            return "";
        }
        Warehouse.Result found = warehouse.result(sql);
        List<String> shown = new ArrayList<>();
        for (int index = 0; index < found.columns().size() && !found.rows().isEmpty(); index++) {
            String column = found.columns().get(index).name();
            boolean isMentioned = mentions(assertion, column);
            if (isMentioned) {
                shown.add(column + " " + found.rows().get(0).get(index));
            }
        }
        return shown.isEmpty() ? "" : ", such as " + String.join(", ", shown);
    }

    private static boolean mentions(Assertion assertion, String column) {
        return assertion.columns().stream().map(Word::text).anyMatch(column::equalsIgnoreCase)
                || assertion
                        .sql()
                        .filter(sql -> sql.text().toLowerCase(Locale.ROOT).contains(column.toLowerCase(Locale.ROOT)))
                        .isPresent();
    }
}
