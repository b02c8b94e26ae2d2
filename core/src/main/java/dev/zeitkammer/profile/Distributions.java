package dev.zeitkammer.profile;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows;
import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * How the values of staged columns are spread: the most frequent ones where there are few, or texts; else classes of equal width between
 * the least and the greatest. It goes by the rows that were profiled last.
 */
public final class Distributions {

    private static final int FREQUENT = 10;
    private static final int CLASSES = 12;

    private final Warehouse warehouse;

    public Distributions(Warehouse warehouse) {
        this.warehouse = warehouse;
    }

    /**
     * A value, or a class of values, and how many rows have it.
     *
     * @param label the value, or the bounds of the class
     */
    public record Bar(String label, long rows) {}

    /**
     * How the values of a column are spread.
     *
     * @param isOrdered whether the bars are classes in their order, rather than values by their frequency
     */
    public record Spread(List<Bar> bars, boolean isOrdered) {

        public Spread {
            bars = List.copyOf(bars);
        }
    }

    /** How the values of a column are spread; no bars where it has no values. */
    public Spread of(ColumnProfile column) {
        List<String> bounds = column.distinct() > CLASSES ? bounds(column) : List.of();
        return bounds.isEmpty() ? frequent(column) : classes(column, bounds);
    }

    private Spread frequent(ColumnProfile column) {
        Dialect dialect = warehouse.dialect();
        String name = dialect.quote(column.name());
        return new Spread(
                warehouse.query(
                        "select " + dialect.asText(name) + " as zk_value, count(*) as zk_rows from " + StagedRows.TABLE
                                + " where " + name + " is not null group by 1 order by 2 desc, 1 limit " + FREQUENT,
                        row -> new Bar(String.valueOf(row.text(1)), row.number(2))),
                false);
    }

    private Spread classes(ColumnProfile column, List<String> bounds) {
        Dialect dialect = warehouse.dialect();
        String name = dialect.quote(column.name());
        String counts = IntStream.range(0, bounds.size() - 1)
                .mapToObj(
                        each -> "count(case when " + name + " >= " + literal(bounds.get(each), column.type()) + " and "
                                + name + (each == bounds.size() - 2 ? " <= " : " < ")
                                + literal(bounds.get(each + 1), column.type()) + " then 1 end)")
                .collect(Collectors.joining(",\n  "));
        List<Bar> bars = new ArrayList<>();
        warehouse.query("select " + counts + "\nfrom " + StagedRows.TABLE, row -> {
            for (int each = 0; each < bounds.size() - 1; each++) {
                bars.add(new Bar(bounds.get(each) + " – " + bounds.get(each + 1), row.number(each + 1)));
            }
            return true;
        });
        return new Spread(bars, true);
    }

    private String literal(String bound, SqlType type) {
        Dialect dialect = warehouse.dialect();
        return type.isMoment() ? dialect.cast(dialect.text(bound), type) : bound;
    }

    /** The bounds of the classes of a column of numbers or moments; none of other columns. */
    private static List<String> bounds(ColumnProfile column) {
        String least = column.least();
        String greatest = column.greatest();
        if (least == null || greatest == null || least.equals(greatest)) {
            return List.of();
        }
        try {
            return column.type().isMoment() ? moments(least, greatest) : numbers(least, greatest, column.type());
        } catch (RuntimeException neither) {
            return List.of();
        }
    }

    private static List<String> numbers(String least, String greatest, SqlType type) {
        if (type.isText()) {
            return List.of();
        }
        BigDecimal low = new BigDecimal(least);
        BigDecimal high = new BigDecimal(greatest);
        BigDecimal width = high.subtract(low).divide(BigDecimal.valueOf(CLASSES), MathContext.DECIMAL64);
        int digits = Math.max(0, 2 - (width.precision() - width.scale()));
        List<String> bounds = new ArrayList<>();
        for (int each = 0; each < CLASSES; each++) {
            bounds.add(low.add(width.multiply(BigDecimal.valueOf(each)))
                    .setScale(each == 0 ? Math.max(digits, low.scale()) : digits, RoundingMode.HALF_UP)
                    .stripTrailingZeros()
                    .toPlainString());
        }
        bounds.add(high.toPlainString());
        return bounds;
    }

    private static List<String> moments(String least, String greatest) {
        List<String> bounds = new ArrayList<>();
        if (least.length() == "2026-03-01".length()) {
            LocalDate low = LocalDate.parse(least);
            long days = ChronoUnit.DAYS.between(low, LocalDate.parse(greatest));
            IntStream.range(0, CLASSES)
                    .mapToObj(each -> low.plusDays(days * each / CLASSES).toString())
                    .forEach(bounds::add);
        } else {
            LocalDateTime low = LocalDateTime.parse(least.replace(' ', 'T'));
            long seconds = Duration.between(low, LocalDateTime.parse(greatest.replace(' ', 'T')))
                    .toSeconds();
            bounds.add(least);
            IntStream.range(1, CLASSES)
                    .mapToObj(each -> low.plusSeconds(seconds * each / CLASSES)
                            .truncatedTo(ChronoUnit.SECONDS)
                            .toString()
                            .replace('T', ' '))
                    .forEach(bounds::add);
        }
        bounds.add(greatest);
        return bounds;
    }
}
