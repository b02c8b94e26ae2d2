package dev.zeitkammer.dimension.table;

import dev.zeitkammer.align.TableShape.ShapedView;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import java.util.ArrayList;
import java.util.List;

/**
 * The views of a dimension: its current versions only, and the dimension under a role's names, in which the surrogate key has
 * the name that it has in facts and every other column begins with the role.
 */
final class DimensionViews {

    private final DimensionTable table;
    private final Dialect dialect;
    private final String target;

    DimensionViews(DimensionTable table, Warehouse warehouse) {
        this.table = table;
        this.dialect = warehouse.dialect();
        this.target = warehouse.table(table.definition().table());
    }

    List<ShapedView> all() {
        List<ShapedView> views = new ArrayList<>();
        table.definition().views().current().ifPresent(name -> views.add(current(name)));
        table.definition().views().roles().forEach((role, name) -> views.add(ofRole(role, name)));
        return views;
    }

    private ShapedView current(Word name) {
        List<Column> columns = table.columns().stream()
                .map(column -> new Column(column.name(), dialect.stored(column.type())))
                .toList();
        String current =
                table.hasHistory() ? "\nwhere " + table.conventions().holds(dialect, AuditColumn.IS_CURRENT) : "";
        return new ShapedView(
                name.text(),
                columns,
                "select " + dialect.list(columns, column -> dialect.quote(column.name())) + "\nfrom " + target
                        + current);
    }

    private ShapedView ofRole(String role, Word name) {
        List<Column> columns = table.columns().stream()
                .map(column -> new Column(named(role, column), dialect.stored(column.type())))
                .toList();
        String list = dialect.list(
                table.columns(), column -> dialect.quote(column.name()) + " as " + dialect.quote(named(role, column)));
        return new ShapedView(name.text(), columns, "select " + list + "\nfrom " + target);
    }

    private static String named(String role, DimensionColumn column) {
        return role + "_" + (column.role() == Role.SURROGATE ? "key" : column.name());
    }
}
