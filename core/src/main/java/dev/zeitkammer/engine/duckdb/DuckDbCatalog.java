package dev.zeitkammer.engine.duckdb;

import dev.zeitkammer.engine.Catalog;
import dev.zeitkammer.engine.Column;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** What the embedded engine says of tables and views; which there are is remembered until a statement may have changed it. */
final class DuckDbCatalog implements Catalog {

    private final DuckDbWarehouse warehouse;
    private @Nullable Set<String> relations;

    DuckDbCatalog(DuckDbWarehouse warehouse) {
        this.warehouse = warehouse;
    }

    void forget() {
        relations = null;
    }

    @Override
    public List<Column> columns(String table) {
        String name = warehouse.schema() + "." + table.toLowerCase(Locale.ROOT);
        if (!relations().contains(name)) {
            relations = null; // another connection may have made it
        }
        return relations().contains(name) ? warehouse.describe("select * from " + warehouse.table(table)) : List.of();
    }

    @Override
    public List<String> required(String table) {
        return warehouse.query(
                "select column_name from duckdb_columns() where database_name = current_database() and schema_name = ?"
                        + " and lower(table_name) = lower(?) and not is_nullable and column_default is null"
                        + " order by column_index",
                row -> String.valueOf(row.text(1)),
                warehouse.schema(),
                table);
    }

    /** The tables of the star and of the books, by schema and name in small letters. */
    private Set<String> relations() {
        if (relations == null) {
            relations = Set.copyOf(warehouse.query(
                    "select distinct schema_name || '.' || lower(table_name) from duckdb_tables()"
                            + " where database_name = current_database() and schema_name in (?, ?) and not temporary",
                    row -> String.valueOf(row.text(1)),
                    warehouse.schema(),
                    DuckDbWarehouse.BOOKS));
        }
        return relations;
    }

    @Override
    public List<Column> viewColumns(String view) {
        return warehouse.query(
                "select c.column_name, c.data_type from duckdb_columns() as c join duckdb_views() as v on v.view_oid = c.table_oid"
                        + " where c.database_name = current_database() and c.schema_name = ? and lower(c.table_name) = lower(?)"
                        + " and not v.temporary order by c.column_index",
                row -> new Column(String.valueOf(row.text(1)), DuckDbTypes.of(String.valueOf(row.text(2)))),
                warehouse.schema(),
                view);
    }

    @Override
    public Optional<String> comment(String schemaOfRelation, String relation) {
        return warehouse
                .query(
                        "select coalesce(comment, '') from (select database_name, schema_name, table_name as name, comment"
                                + " from duckdb_tables() union all select database_name, schema_name, view_name, comment from"
                                + " duckdb_views()) as relations where database_name = current_database() and schema_name = ?"
                                + " and lower(name) = lower(?)",
                        row -> String.valueOf(row.text(1)),
                        schemaOfRelation,
                        relation)
                .stream()
                .findFirst();
    }

    @Override
    public Map<String, String> comments(String table) {
        Map<String, String> comments = new HashMap<>();
        warehouse.query(
                "select '', comment from duckdb_tables() where database_name = current_database() and schema_name = ?"
                        + " and lower(table_name) = lower(?) union all "
                        + "select column_name, comment from duckdb_columns() where database_name = current_database()"
                        + " and schema_name = ? and lower(table_name) = lower(?)",
                row -> comments.put(String.valueOf(row.text(1)), row.text(2)),
                warehouse.schema(),
                table,
                warehouse.schema(),
                table);
        return comments;
    }

    @Override
    public Set<String> books() {
        String prefix = DuckDbWarehouse.BOOKS + ".";
        return relations().stream()
                .filter(name -> name.startsWith(prefix))
                .map(name -> name.substring(prefix.length()))
                .collect(Collectors.toUnmodifiableSet());
    }
}
