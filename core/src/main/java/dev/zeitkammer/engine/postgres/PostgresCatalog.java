package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.Catalog;
import dev.zeitkammer.engine.Column;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** What the server says of tables and views. */
final class PostgresCatalog implements Catalog {

    private final PostgresWarehouse warehouse;
    private final String schema;
    private final String books;

    /** @param books the schema of the books */
    PostgresCatalog(PostgresWarehouse warehouse, String schema, String books) {
        this.warehouse = warehouse;
        this.schema = schema;
        this.books = books;
    }

    @Override
    public List<Column> columns(String table) {
        return columns(table, "('r', 'p')");
    }

    @Override
    public List<Column> viewColumns(String view) {
        return columns(view, "('v')");
    }

    @Override
    public List<String> required(String table) {
        return warehouse.query(
                "select a.attname from pg_attribute as a join pg_class as c on c.oid = a.attrelid"
                        + " join pg_namespace as n on n.oid = c.relnamespace"
                        + " where n.nspname = ? and lower(c.relname) = lower(?) and a.attnum > 0 and not a.attisdropped"
                        + " and a.attnotnull and not a.atthasdef and a.attidentity = '' order by a.attnum",
                row -> String.valueOf(row.text(1)),
                schema,
                table);
    }

    @Override
    public List<Held> constraints(String table) {
        return warehouse.query(
                "select c.contype::text, (select string_agg(a.attname, chr(1) order by a.attnum) from pg_attribute as a"
                        + " where a.attrelid = c.conrelid and a.attnum = any (c.conkey))"
                        + " from pg_constraint as c join pg_class as r on r.oid = c.conrelid"
                        + " join pg_namespace as n on n.oid = r.relnamespace"
                        + " where n.nspname = ? and lower(r.relname) = lower(?) and c.contype in ('p', 'u', 'f')"
                        + " union all select 'n', a.attname from pg_attribute as a join pg_class as r on r.oid = a.attrelid"
                        + " join pg_namespace as n on n.oid = r.relnamespace"
                        + " where n.nspname = ? and lower(r.relname) = lower(?) and a.attnum > 0 and a.attnotnull",
                row -> new Held(
                        String.valueOf(row.text(1)),
                        List.of(String.valueOf(row.text(2)).split("\u0001"))),
                schema,
                table,
                schema,
                table);
    }

    private List<Column> columns(String relation, String kinds) {
        return warehouse.query(
                "select a.attname, format_type(a.atttypid, a.atttypmod) from pg_attribute as a"
                        + " join pg_class as c on c.oid = a.attrelid join pg_namespace as n on n.oid = c.relnamespace"
                        + " where n.nspname = ? and lower(c.relname) = lower(?) and c.relkind in " + kinds
                        + " and a.attnum > 0 and not a.attisdropped order by a.attnum",
                row -> new Column(String.valueOf(row.text(1)), PostgresTypes.of(String.valueOf(row.text(2)))),
                schema,
                relation);
    }

    @Override
    public Optional<String> comment(String schemaOfRelation, String relation) {
        return warehouse
                .query(
                        "select coalesce(obj_description(c.oid, 'pg_class'), '') from pg_class as c"
                                + " join pg_namespace as n on n.oid = c.relnamespace"
                                + " where n.nspname = ? and lower(c.relname) = lower(?) and c.relkind in ('r', 'p', 'v', 'm', 'f')",
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
                "select coalesce(a.attname, ''), d.description from pg_description as d join pg_class as c on c.oid = d.objoid"
                        + " join pg_namespace as n on n.oid = c.relnamespace"
                        + " left join pg_attribute as a on a.attrelid = c.oid and a.attnum = d.objsubid and d.objsubid > 0"
                        + " where d.classoid = cast('pg_class' as regclass) and n.nspname = ? and lower(c.relname) = lower(?)",
                row -> comments.put(String.valueOf(row.text(1)), row.text(2)),
                schema,
                table);
        return comments;
    }

    @Override
    public Set<String> indexes(String table) {
        return Set.copyOf(warehouse.query(
                "select indexname from pg_indexes where schemaname = ? and lower(tablename) = lower(?)",
                row -> String.valueOf(row.text(1)),
                schema,
                table));
    }

    @Override
    public Set<String> books() {
        return Set.copyOf(warehouse.query(
                "select tablename from pg_tables where schemaname = ?", row -> String.valueOf(row.text(1)), books));
    }
}
