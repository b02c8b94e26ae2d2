package dev.zeitkammer.align;

import dev.zeitkammer.definition.Described;
import dev.zeitkammer.definition.Layout;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The form that a table must have.
 *
 * @param name the table's name
 * @param columns its columns, in order
 * @param identity the columns without which an existing table is not one of this program's
 * @param about what the table is, for readers of the catalog
 * @param views the views that belong to it
 * @param indexes the columns by which its rows are looked for, where the engine keeps indexes
 * @param layout how its rows lie in files, where the engine lets one say so
 * @param standing whether it was made by others, so that columns which nothing fills may be in the way
 */
public record TableShape(
        String name,
        List<ShapedColumn> columns,
        List<String> identity,
        Optional<String> about,
        List<ShapedView> views,
        List<List<String>> indexes,
        Layout layout,
        boolean standing) {

    public TableShape {
        indexes = List.copyOf(indexes);
        columns = List.copyOf(columns);
        identity = List.copyOf(identity);
        views = List.copyOf(views);
    }

    /**
     * A column of the table.
     *
     * @param was the name that it had before
     * @param initially SQL for its value in rows that are there when it is added
     */
    public record ShapedColumn(
            String name, SqlType type, Optional<String> was, Optional<String> initially, Optional<String> about) {

        Column column() {
            return new Column(name, type);
        }
    }

    /** The same, with what columns that are added hold in rows that are there: SQL by the column's name. */
    public TableShape filling(Map<String, String> values) {
        List<ShapedColumn> filled = columns.stream()
                .map(column -> new ShapedColumn(
                        column.name(),
                        column.type(),
                        column.was(),
                        column.initially().or(() -> Optional.ofNullable(values.get(column.name()))),
                        column.about()))
                .toList();
        return new TableShape(name, filled, identity, about, views, indexes, layout, standing);
    }

    /** The same with former names and meanings of its columns, and what the table is. */
    public TableShape described(Described said) {
        List<ShapedColumn> told = columns.stream()
                .map(column -> new ShapedColumn(
                        column.name(),
                        column.type(),
                        column.was().or(() -> said.was(column.name())),
                        column.initially(),
                        column.about().or(() -> said.meaning(column.name()))))
                .toList();
        return new TableShape(
                name, told, identity, about.or(() -> said.about().map(Word::text)), views, indexes, layout, standing);
    }

    /** The same with indexes. */
    public TableShape indexedBy(List<List<String>> found) {
        return new TableShape(name, columns, identity, about, views, found, layout, standing);
    }

    /** The same with rows that lie in files as a definition says. */
    public TableShape laidOut(Layout wanted) {
        return new TableShape(name, columns, identity, about, views, indexes, wanted, standing);
    }

    /** The same, made by others if so. */
    public TableShape standing(boolean byOthers) {
        return new TableShape(name, columns, identity, about, views, indexes, layout, byOthers);
    }

    /** A view with the columns that its query has. */
    public record ShapedView(String name, List<Column> columns, String query) {

        public ShapedView {
            columns = List.copyOf(columns);
        }
    }

    /** A table of which nothing more is said than its columns. */
    public static TableShape plain(String name, List<Column> columns, List<String> identity) {
        List<ShapedColumn> shaped = columns.stream()
                .map(column -> new ShapedColumn(
                        column.name(), column.type(), Optional.empty(), Optional.empty(), Optional.empty()))
                .toList();
        return new TableShape(name, shaped, identity, Optional.empty(), List.of(), List.of(), Layout.NONE, false);
    }
}
