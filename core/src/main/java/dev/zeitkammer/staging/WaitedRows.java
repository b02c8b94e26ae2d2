package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** The rows of an input that waited, on their way back among its staged rows. */
final class WaitedRows {

    /** The file that they are of, for rows that have none in the delivery. */
    private static final int NO_FILE = -1;

    private final Stager stager;
    private final String input;
    private final Map<Long, WaitingRow> byNumber = new LinkedHashMap<>();

    WaitedRows(Stager stager, Input input, Earlier earlier) {
        this.stager = stager;
        this.input = earlier.scope() + input.name();
        earlier.waiting().apply(this.input).forEach(row -> byNumber.put(row.row(), row));
    }

    /** What the books call the input. */
    String input() {
        return input;
    }

    boolean any() {
        return !byNumber.isEmpty();
    }

    Collection<WaitingRow> all() {
        return byNumber.values();
    }

    /** Where the rows stood when they were delivered; those that came with the delivery are not among them. */
    List<Locator.Located> locate(Collection<Long> rows) {
        return rows.stream()
                .map(byNumber::get)
                .filter(row -> row != null)
                .map(row ->
                        new Locator.Located(row.row(), row.file() == null ? "" : row.file(), row.line(), row.text()))
                .toList();
    }

    /** The load since which a row waits; 0 for one that came with the delivery. */
    long since(long row) {
        WaitingRow waited = byNumber.get(row);
        return waited == null ? 0 : waited.since();
    }

    /** Rows of a source that remembers which wait now; one that has the values of one that waited before is that one. */
    List<WaitingRow> remembered(List<WaitingRow> waiting) {
        Map<Map<String, @Nullable String>, Deque<WaitingRow>> before = new HashMap<>();
        all().forEach(row -> before.computeIfAbsent(row.values(), values -> new ArrayDeque<>())
                .add(row));
        return waiting.stream()
                .map(row -> Optional.ofNullable(before.get(row.values()))
                        .map(Deque::poll)
                        .map(same -> row.kept(same.since(), same.row()))
                        .orElse(row))
                .toList();
    }

    /**
     * The rows of a query and those that waited. A value that its type no longer holds is a bad one. A row that waited for a partner
     * and is delivered once more is one row.
     *
     * @param typed the wanted columns
     * @param relation the relation that the rows will be; what waited is carried beside it
     */
    String with(String query, List<Column> typed, String relation) {
        String carried = relation + "_waited";
        List<Column> columns = new ArrayList<>(List.of(new Column("zk_number", SqlType.BIGINT)));
        for (int index = 0; index < typed.size(); index++) {
            columns.add(new Column(text(index), SqlType.VARCHAR));
        }
        stager.carry(
                carried,
                columns,
                () -> all().stream().map(row -> values(row, typed)).iterator());
        List<Column> described = stager.describe(query);
        Dialect dialect = stager.dialect();
        return "select %s from (%s) as delivered\nunion all\nselect %s from %s as zk_w%s"
                .formatted(
                        dialect.list(described, column -> dialect.quote(column.name())),
                        query,
                        dialect.list(described, column -> value(column, typed)),
                        carried,
                        waitForPartners() ? unlessDelivered(query, typed) : "");
    }

    private boolean waitForPartners() {
        return all().stream().allMatch(row -> row.reason().equals(WaitingRow.NO_PARTNER));
    }

    /** What no row that waited lacks is compared as such: a plain equation is found fast, and there is one, as nobody waits for a null. */
    private String unlessDelivered(String query, List<Column> typed) {
        Dialect dialect = stager.dialect();
        String isSame = typed.stream()
                .map(column -> dialect.equal(
                        dialect.column("d", column.name()),
                        value(column, typed),
                        all().stream().anyMatch(row -> value(row, column) == null)))
                .collect(Collectors.joining(" and "));
        return "\nwhere not exists (select 1 from (%s) as d where d.zk_bad_column is null and %s)"
                .formatted(query, isSame);
    }

    private static List<@Nullable Object> values(WaitingRow row, List<Column> typed) {
        List<@Nullable Object> values = new ArrayList<>(List.of(row.row()));
        typed.forEach(column -> values.add(value(row, column)));
        return values;
    }

    private static @Nullable String value(WaitingRow row, Column column) {
        return row.values().get(column.name().toLowerCase(Locale.ROOT));
    }

    private static String text(int index) {
        return "zk_w" + index;
    }

    private String value(Column column, List<Column> typed) {
        Dialect dialect = stager.dialect();
        return switch (column.name()) {
            case "zk_row" -> "zk_w.zk_number";
            case "zk_file" -> dialect.cast(String.valueOf(NO_FILE), column.type());
            case "zk_bad_column" -> firstBad(typed, true);
            case "zk_bad_text" -> firstBad(typed, false);
            default ->
                index(column, typed) < 0
                        ? dialect.cast("null", column.type())
                        : dialect.tryCast("zk_w." + text(index(column, typed)), column.type());
        };
    }

    private static int index(Column column, List<Column> typed) {
        return typed.stream().map(Column::name).toList().indexOf(column.name());
    }

    private String firstBad(List<Column> typed, boolean isColumn) {
        Dialect dialect = stager.dialect();
        StringBuilder branches = new StringBuilder();
        for (int index = 0; index < typed.size(); index++) {
            Column column = typed.get(index);
            if (!column.type().isText()) {
                String text = "zk_w." + text(index);
                branches.append(" when ")
                        .append(text)
                        .append(" is not null and ")
                        .append(dialect.tryCast(text, column.type()))
                        .append(" is null then ")
                        .append(isColumn ? dialect.text(column.name()) : text);
            }
        }
        return branches.isEmpty() ? "cast(null as varchar)" : "case" + branches + " end";
    }

    /** Reads rows of a relation as they will be kept: their values as texts. */
    static Map<Long, Map<String, @Nullable String>> texts(
            Stager stager, String relation, List<Column> columns, Collection<Long> rows) {
        Dialect dialect = stager.dialect();
        Map<Long, Map<String, @Nullable String>> texts = new HashMap<>();
        String values = columns.stream()
                .map(column -> ", " + dialect.asText(dialect.quote(column.name())))
                .collect(Collectors.joining());
        stager.query(
                "select zk_row" + values + " from " + relation + " where zk_row in " + Source.numbers(rows), row -> {
                    Map<String, @Nullable String> read = new LinkedHashMap<>();
                    for (int index = 0; index < columns.size(); index++) {
                        read.put(columns.get(index).name().toLowerCase(Locale.ROOT), row.text(index + 2));
                    }
                    return texts.put(row.number(1), read);
                });
        return texts;
    }
}
