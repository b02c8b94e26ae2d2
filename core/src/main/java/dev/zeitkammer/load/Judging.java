package dev.zeitkammer.load;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.JudgedExpectation;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Expectation;
import dev.zeitkammer.definition.Expectation.Control;
import dev.zeitkammer.definition.Expectation.Kind;
import dev.zeitkammer.definition.Expectation.Otherwise;
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
import dev.zeitkammer.step.ExpectedRows;
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
    private final Map<Expectation, Optional<BigDecimal>> controls = new HashMap<>();

    Judging(Warehouse warehouse, Definition definition, Staging staging, Stamp stamp) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.definition = definition;
        this.staging = staging;
        this.stamp = stamp;
    }

    /** Reads what totals must equal; before the rows themselves are staged, which take the place of these. */
    void readControls(List<Expectation> expectations, Earlier earlier) {
        expectations.forEach(expectation ->
                expectation.control().ifPresent(control -> controls.put(expectation, controlled(control, earlier))));
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
     * @throws GuardException where one of those fails that stop the load
     */
    List<JudgedExpectation> staged(Input input) {
        String rows = "(select * from " + StagedRows.TABLE
                + input.where()
                        .map(where -> " where coalesce(" + Expressions.sql(where) + ", false)")
                        .orElse("")
                + ") as s";
        return judged(input.expectations(), rows);
    }

    /** Judges the table as it stands at the end of the load's transaction. */
    List<JudgedExpectation> table() {
        return judged(definition.demands().expectations(), ExpectedRows.ofTable(definition, warehouse));
    }

    private List<JudgedExpectation> judged(List<Expectation> expectations, String rows) {
        if (expectations.isEmpty()) {
            return List.of();
        }
        Map<Expectation, BigDecimal> numbers = numbers(expectations, rows);
        List<JudgedExpectation> all = new ArrayList<>();
        expectations.forEach(expectation -> all.add(judged(expectation, numbers.get(expectation))));
        stop(expectations, all, rows);
        return all;
    }

    /** A number for each expectation, all in one query: rows that fail, rows that stand twice, a sum, or rows. */
    private Map<Expectation, BigDecimal> numbers(List<Expectation> expectations, String rows) {
        String selected = expectations.stream()
                .map(expectation -> dialect.asText(number(expectation, rows)))
                .collect(Collectors.joining(", "));
        Map<Expectation, BigDecimal> numbers = new HashMap<>();
        warehouse.query("select " + selected + " from " + rows, row -> {
            for (int index = 0; index < expectations.size(); index++) {
                String number = row.text(index + 1);
                numbers.put(expectations.get(index), number == null ? BigDecimal.ZERO : new BigDecimal(number));
            }
            return true;
        });
        return numbers;
    }

    private String number(Expectation expectation, String rows) {
        return switch (expectation.kind()) {
            case ROWS, VALUES ->
                "count(case when not coalesce(" + ExpectedRows.condition(expectation, dialect) + ", true) then 1 end)";
            case UNIQUE ->
                "(select coalesce(sum(times), 0) from (" + ExpectedRows.twice(expectation, rows, dialect)
                        + ") as twice)";
            case TOTAL -> Expressions.sql(expectation.sql().orElseThrow());
            case STAGED, AGAINST_LAST -> "count(*)";
        };
    }

    private JudgedExpectation judged(Expectation expectation, BigDecimal number) {
        return switch (expectation.kind()) {
            case ROWS, VALUES, UNIQUE ->
                told(
                        expectation,
                        number.signum() == 0 ? "so in all rows" : Counted.rows(number.longValue()) + " otherwise",
                        number.longValue(),
                        number.signum() == 0);
            case TOTAL -> total(expectation, number);
            case STAGED ->
                told(
                        expectation,
                        Counted.rows(number.longValue()),
                        0,
                        expectation.bounds().hold(number));
            case AGAINST_LAST -> againstLast(expectation, number);
        };
    }

    private JudgedExpectation total(Expectation expectation, BigDecimal sum) {
        Control control = expectation.control().orElseThrow();
        Optional<BigDecimal> wanted = controls.getOrDefault(expectation, Optional.empty());
        if (wanted.isEmpty()) {
            return told(
                    expectation,
                    sum.toPlainString() + ", and " + control.input().name() + " has no delivery that says otherwise",
                    0,
                    false);
        }
        boolean holds = sum.subtract(wanted.get()).abs().compareTo(control.within()) <= 0;
        return told(
                expectation,
                sum.toPlainString()
                        + (holds ? " and " : " instead of ")
                        + wanted.get().toPlainString(),
                0,
                holds);
    }

    private JudgedExpectation againstLast(Expectation expectation, BigDecimal rows) {
        Optional<BigDecimal> last = new Books(warehouse)
                .lastFound(definition.table(), expectation.name().text())
                .map(found -> new BigDecimal(found.split(" ")[0]));
        boolean isFirst = last.isEmpty() || last.get().signum() == 0;
        boolean holds =
                isFirst || expectation.bounds().hold(rows.multiply(WHOLE).divide(last.get(), MathContext.DECIMAL64));
        return told(
                expectation,
                rows.toPlainString() + " rows"
                        + last.map(before -> ", " + before.toPlainString() + " in the last load")
                                .orElse(", and no load before"),
                0,
                holds);
    }

    private static JudgedExpectation told(Expectation expectation, String found, long broken, boolean holds) {
        return new JudgedExpectation(
                expectation.name().text(),
                expectation.claim(),
                found,
                broken,
                expectation.otherwise().name().toLowerCase(Locale.ROOT).replace('_', '-'),
                holds);
    }

    private void stop(List<Expectation> expectations, List<JudgedExpectation> judged, String rows) {
        List<String> broken = new ArrayList<>();
        for (int index = 0; index < judged.size(); index++) {
            Expectation expectation = expectations.get(index);
            JudgedExpectation how = judged.get(index);
            if (!how.holds() && expectation.otherwise() == Otherwise.STOP) {
                broken.add(
                        "\"" + how.name() + "\" (" + how.expected() + "): " + how.found() + example(expectation, rows));
            }
        }
        if (!broken.isEmpty()) {
            throw new GuardException("What is expected of " + definition.table() + " is not so: "
                    + String.join("; ", broken) + ". Nothing was changed; mend the delivery, or say otherwise: note");
        }
    }

    /** The first row that fails, or what stands twice. */
    private String example(Expectation expectation, String rows) {
        String sql;
        if (expectation.isOfRows()) {
            sql = "select * from " + rows + " where not coalesce(" + ExpectedRows.condition(expectation, dialect)
                    + ", true) limit 1";
        } else if (expectation.kind() == Kind.UNIQUE) {
            sql = ExpectedRows.twice(expectation, rows, dialect) + " limit 1";
        } else {
            return "";
        }
        Warehouse.Result found = warehouse.result(sql);
        List<String> shown = new ArrayList<>();
        for (int index = 0; index < found.columns().size() && !found.rows().isEmpty(); index++) {
            String column = found.columns().get(index).name();
            boolean isMentioned = mentions(expectation, column);
            if (isMentioned) {
                shown.add(column + " " + found.rows().get(0).get(index));
            }
        }
        return shown.isEmpty() ? "" : ", such as " + String.join(", ", shown);
    }

    private static boolean mentions(Expectation expectation, String column) {
        return expectation.columns().stream().map(Word::text).anyMatch(column::equalsIgnoreCase)
                || expectation
                        .sql()
                        .filter(sql -> sql.text().toLowerCase(Locale.ROOT).contains(column.toLowerCase(Locale.ROOT)))
                        .isPresent();
    }
}
