package dev.zeitkammer.adopt;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.SqlType.Kind;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A table of the warehouse that is looked at: its columns, and what its rows answer. */
final class StandingTable {

    private static final Set<Kind> WHOLE = Set.of(Kind.SMALLINT, Kind.INTEGER, Kind.BIGINT);

    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String name;
    private final List<Held> columns = new ArrayList<>();
    private long rows;

    /**
     * A column, and what it holds.
     *
     * @param filled the rows that have a value
     * @param distinct the number of different values
     * @param least the least value as a text; null without values
     */
    record Held(
            Column column,
            long filled,
            long distinct,
            @Nullable String least,
            @Nullable String greatest) {

        String name() {
            return column.name();
        }

        boolean isWhole() {
            return WHOLE.contains(column.type().kind());
        }

        boolean isMoment() {
            return column.type().isMoment();
        }
    }

    StandingTable(Warehouse warehouse, String name) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.name = name;
        look();
    }

    /** Looks at every column in one query. */
    private void look() {
        List<Column> found = warehouse.columns(name);
        String each = found.stream()
                .map(column -> "count(" + dialect.quote(column.name()) + "), count(distinct "
                        + dialect.quote(column.name()) + "), " + extreme("min", column) + ", " + extreme("max", column))
                .collect(Collectors.joining(", "));
        warehouse.query("select count(*), " + each + " from " + table(), row -> {
            rows = row.number(1);
            for (int index = 0; index < found.size(); index++) {
                int first = 2 + 4 * index;
                columns.add(new Held(
                        found.get(index),
                        row.number(first),
                        row.number(first + 1),
                        row.text(first + 2),
                        row.text(first + 3)));
            }
            return true;
        });
    }

    /** The least or the greatest value as a text; of yes and no, of their texts, since engines do not order them. */
    private String extreme(String which, Column column) {
        String value = dialect.quote(column.name());
        return column.type().equals(SqlType.BOOLEAN)
                ? which + "(" + dialect.asText(value) + ")"
                : dialect.asText(which + "(" + value + ")");
    }

    Dialect dialect() {
        return dialect;
    }

    String name() {
        return name;
    }

    String table() {
        return warehouse.table(name);
    }

    long rows() {
        return rows;
    }

    List<Held> columns() {
        return columns;
    }

    Optional<Held> column(String wanted) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(wanted))
                .findFirst();
    }

    boolean isFilled(Held column) {
        return column.filled() == rows;
    }

    boolean isUnique(Held column) {
        return isFilled(column) && column.distinct() == rows;
    }

    /** The different values of a column, as texts, when they are no more than a few. */
    List<String> values(Held column, int most) {
        return column.distinct() > most
                ? List.of()
                : warehouse.query(
                        "select distinct " + dialect.asText(dialect.quote(column.name())) + " from " + table()
                                + " where " + dialect.quote(column.name()) + " is not null order by 1",
                        row -> String.valueOf(row.text(1)));
    }

    /** How many rows of a query there are. */
    long count(String from) {
        return warehouse.number("select count(*) from " + from);
    }

    /** Whether columns, none of them null, tell the rows apart that meet a condition. */
    boolean tellApart(List<String> names, String condition) {
        String nulls =
                names.stream().map(each -> dialect.quote(each) + " is null").collect(Collectors.joining(" or "));
        String of = table() + " where " + condition;
        return count(of + " and (" + nulls + ")") == 0
                && count("(select " + dialect.columns(names) + " from " + of + " group by " + dialect.columns(names)
                                + " having count(*) > 1) as twice")
                        == 0;
    }
}
