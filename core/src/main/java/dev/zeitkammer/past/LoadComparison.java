package dev.zeitkammer.past;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.step.ChangedAttribute;
import dev.zeitkammer.step.ChangedValue;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Collectors;

/** What lies between two loads: the rows of a table that came and went, and the values that changed. */
public final class LoadComparison {

    private final Warehouse warehouse;
    private final Definition definition;
    private final Dialect dialect;
    private final ImageTable table;

    public LoadComparison(Warehouse warehouse, Definition definition) {
        this.warehouse = warehouse;
        this.definition = definition;
        this.dialect = warehouse.dialect();
        this.table = new ImageTable(warehouse, definition);
    }

    /**
     * What changed in a table.
     *
     * @param came rows that were not there
     * @param gone rows that are no longer there
     * @param changed the values that changed, by column, the most frequent first, each with some of its changes
     */
    public record Compared(String table, long came, long gone, List<ChangedAttribute> changed) {

        public Compared {
            changed = List.copyOf(changed);
        }
    }

    /** Compares the table as it was known after two loads. */
    public Compared of(long before, long after) {
        KnownTable known = new KnownTable(warehouse, definition);
        String sides = Sql.of("""
                from (
                  ${before}
                ) as b
                full join (
                  ${after}
                ) as a on ${same_key}""")
                .with("before", known.after(before))
                .with("after", known.after(after))
                .with("same_key", table.key().isEmpty() ? everything() : table.sameKey("b", "a"))
                .text();
        List<String> columns = compared();
        String first = identity().get(0);
        String isThere = dialect.column("b", first) + " is not null and " + dialect.column("a", first) + " is not null";
        String counts = columns.stream()
                .map(column -> ",\n  count(case when " + isThere + " and " + differs(column) + " then 1 end)")
                .collect(Collectors.joining());
        String sql =
                "select count(case when " + dialect.column("b", first) + " is null then 1 end),\n  count(case when "
                        + dialect.column("a", first) + " is null then 1 end)" + counts + "\n" + sides;
        List<Long> numbers = warehouse
                .query(sql, row -> {
                    List<Long> found = new ArrayList<>();
                    for (int column = 1; column <= row.width(); column++) {
                        found.add(row.number(column));
                    }
                    return found;
                })
                .get(0);
        List<ChangedAttribute> changed = new ArrayList<>();
        for (int index = 0; index < columns.size(); index++) {
            long rows = numbers.get(index + 2);
            if (rows > 0) {
                changed.add(new ChangedAttribute(
                        definition.table(), columns.get(index), rows, some(columns.get(index), isThere, sides)));
            }
        }
        changed.sort(Comparator.comparing(ChangedAttribute::count).reversed());
        return new Compared(definition.table(), numbers.get(0), numbers.get(1), changed);
    }

    private String everything() {
        return table.columns().stream()
                .map(column -> dialect.same(dialect.column("b", column), dialect.column("a", column)))
                .collect(Collectors.joining(" and "));
    }

    /** Columns that are never null in a row that is there. */
    private List<String> identity() {
        return table.key().isEmpty() ? List.of(definition.conventions().column(AuditColumn.INSERTED_BY)) : table.key();
    }

    /** The columns whose values are told: not those that a load stamps. */
    private List<String> compared() {
        List<String> stamps = List.of(
                definition.conventions().column(AuditColumn.INSERTED_AT),
                definition.conventions().column(AuditColumn.INSERTED_BY),
                definition.conventions().column(AuditColumn.UPDATED_AT),
                definition.conventions().column(AuditColumn.UPDATED_BY));
        return table.columns().stream()
                .filter(column -> !stamps.contains(column) && !table.key().contains(column))
                .toList();
    }

    private String differs(String column) {
        return dialect.differs(dialect.column("b", column), dialect.column("a", column));
    }

    private List<ChangedValue> some(String column, String isThere, String sides) {
        String member = shownKey().stream()
                .map(name -> dialect.asText(dialect.column("a", name)))
                .collect(Collectors.joining(" || ', ' || "));
        return warehouse.query(
                "select " + member + version() + ", " + dialect.asText(dialect.column("b", column)) + ", "
                        + dialect.asText(dialect.column("a", column)) + "\n" + sides + "\nwhere " + isThere + " and "
                        + differs(column) + "\norder by 1, 2, 3\nlimit " + ChangedAttribute.SOME,
                row -> new ChangedValue(String.valueOf(row.text(1)), "", row.text(2), row.text(3)));
    }

    /** Which version of a member it is, where there are several. */
    private String version() {
        String version = definition.conventions().column(AuditColumn.VERSION);
        return definition instanceof Dimension && table.columns().contains(version)
                ? " || ', version ' || " + dialect.asText(dialect.column("a", version))
                : "";
    }

    private List<String> shownKey() {
        return definition instanceof Dimension dimension && !dimension.key().isEmpty()
                ? dimension.key().stream().map(Word::text).toList()
                : identity();
    }
}
