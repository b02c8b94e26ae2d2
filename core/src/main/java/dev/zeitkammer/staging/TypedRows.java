package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;

/** What sources of typed rows without files have in common. */
final class TypedRows {

    private TypedRows() {}

    static RowForm form(List<String> header) {
        return new RowForm(RowForm.Kind.TABLE, "utf-8", String.join(",", header));
    }

    /** Columns with their types, each followed by a comma. */
    static String columns(Collection<String> wanted, List<Column> columns, Dialect dialect) {
        return wanted.stream()
                .map(name -> dialect.cast(
                                dialect.quote(Names.written(
                                        columns.stream().map(Column::name).toList(), name)),
                                Source.typeOf(columns, name)
                                        .filter(type -> !dialect.isLoose(type))
                                        .orElse(SqlType.VARCHAR))
                        + " as " + dialect.quote(name) + ", ")
                .collect(Collectors.joining());
    }

    /** Rows have no text; what was staged of them is written as JSON, a bad value as it came. */
    static List<Locator.Located> locate(Stager stager, String relation, Collection<Long> rows, String shown) {
        Dialect dialect = stager.dialect();
        String members = stager.describe("select * from " + relation).stream()
                .map(Column::name)
                .filter(name -> !name.startsWith("zk_"))
                .map(name -> "%s: case when zk_bad_column = %s then zk_bad_text else cast(%s as varchar) end"
                        .formatted(dialect.text(name), dialect.text(name), dialect.quote(name)))
                .collect(Collectors.joining(", "));
        return stager.query(
                "select zk_row, cast(to_json({" + members + "}) as varchar) from " + relation + " where zk_row in "
                        + Source.numbers(rows) + " order by zk_row",
                row -> new Locator.Located(row.number(1), shown, 0, row.text(2)));
    }

    /**
     * The places of rows that are made of those of another input: where those stand.
     *
     * @param from the column that holds the number of the row that each was made of
     */
    static List<Locator.Located> located(
            Stager stager, String relation, String from, Collection<Long> rows, StagedRows part, String partRelation) {
        Map<Long, List<Long>> madeOf = new LinkedHashMap<>();
        stager.query(
                "select zk_row, " + from + " from " + relation + " where zk_row in " + Source.numbers(rows),
                row -> madeOf.computeIfAbsent(row.number(2), number -> new ArrayList<>())
                        .add(row.number(1)));
        List<Locator.Located> located = new ArrayList<>();
        Locator.locate(part, partRelation, madeOf.keySet())
                .forEach(place -> madeOf.get(place.row())
                        .forEach(row ->
                                located.add(new Locator.Located(row, place.file(), place.line(), place.text()))));
        return located;
    }

    /** What of an input that another is made of cannot be used: its bad lines, and its rows with bad values. */
    static List<Unusable> lost(StagedRows part) {
        String relation = Staging.relationOf(part.source().input());
        List<Unusable> lost = new ArrayList<>(part.unusable());
        Map<Long, String[]> bad = new TreeMap<>();
        part.stager()
                .query(
                        "select zk_row, zk_bad_column, zk_bad_text from " + relation
                                + " where zk_bad_column is not null",
                        row -> bad.put(
                                row.number(1),
                                new String[] {String.valueOf(row.text(2)), String.valueOf(row.text(3))}));
        if (!bad.isEmpty()) {
            part.source()
                    .locate(relation, bad.keySet())
                    .forEach(place -> lost.add(new Unusable(
                            "bad value",
                            bad.get(place.row())[0],
                            bad.get(place.row())[1],
                            place.file(),
                            place.line(),
                            place.text())));
        }
        return lost;
    }
}
