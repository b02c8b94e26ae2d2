package dev.zeitkammer.seal;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.ChangeType;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.past.ImageTable;
import java.util.Collection;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Which rows of a table with a broken seal were changed, as far as the warehouse itself can tell. */
public final class AlteredRows {

    /** Rows of a load are named where no more stand. */
    private static final int FEW = 5;

    private final Definition definition;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String writtenBy;

    public AlteredRows(Definition definition, Warehouse warehouse) {
        this.definition = definition;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.writtenBy = dialect.column("t", definition.conventions().column(AuditColumn.UPDATED_BY));
    }

    /**
     * The keys of the rows that a load wrote last, one of which was changed.
     *
     * @param standing how many there are
     * @return empty where there are none, where they are too many to be named, or where rows have no key
     */
    public String few(long load, long standing) {
        if (standing > FEW || definition.rowKey().isEmpty()) {
            return "";
        }
        return warehouse
                .query(
                        Sql.of("select ${key} from ${target} as t where ${written_by} = ${load} order by 1")
                                .with("key", key())
                                .with("target", warehouse.table(definition.table()))
                                .with("written_by", writtenBy)
                                .with("load", load)
                                .text(),
                        row -> String.valueOf(row.text(1)))
                .stream()
                .collect(Collectors.joining("; "));
    }

    /**
     * Values that no load changes in a version that stands, where they are not those of its image from before the load that wrote it
     * last: the business key, attributes of type 0 and 2, and what says when and by which load it was inserted.
     *
     * @param loads those whose rows do not agree with the seal
     * @param most so many at most
     */
    public List<AlteredValue> sinceImages(Collection<Long> loads, int most) {
        ImageTable images = new ImageTable(warehouse, definition);
        if (!(definition instanceof Dimension dimension) || !dimension.hasHistory() || !images.stands()) {
            return List.of();
        }
        String parts = loads.stream()
                .flatMap(load -> kept(dimension).map(column -> part(column, load, images)))
                .collect(Collectors.joining("\nunion all\n"));
        return parts.isEmpty()
                ? List.of()
                : warehouse.query(
                        "select * from (" + parts + "\n) as altered order by 1, 2 limit " + most,
                        row -> new AlteredValue(
                                String.valueOf(row.text(1)), String.valueOf(row.text(2)), row.text(3), row.text(4)));
    }

    private Stream<String> kept(Dimension dimension) {
        Stream<String> named = Stream.concat(
                dimension.key().stream().map(Word::text),
                dimension.attributes().stream()
                        .filter(each -> each.change() == ChangeType.TYPE_0 || each.change() == ChangeType.TYPE_2)
                        .map(each -> each.name().text()));
        Stream<String> stamps =
                Stream.of(AuditColumn.INSERTED_AT, AuditColumn.INSERTED_BY).map(dimension.conventions()::column);
        List<String> standing =
                warehouse.columns(dimension.table()).stream().map(Column::name).toList();
        return Stream.concat(named, stamps).filter(standing::contains);
    }

    private String part(String column, long load, ImageTable images) {
        String origin = definition.conventions().column(AuditColumn.ROW_ORIGIN);
        return Sql.of("""
                select ${key} as row_key, ${name} as column_name, ${was} as known, ${stands} as standing
                from ${target} as t
                join (
                ${first}
                ) as b on ${same_key}
                where ${written_by} = ${load} and ${t_origin} = ${b_origin} and ${differs}""")
                .with("key", key())
                .with("name", dialect.text(column))
                .with("was", dialect.asText(dialect.column("b", column)))
                .with("stands", dialect.asText(dialect.column("t", column)))
                .with("target", warehouse.table(definition.table()))
                .with("first", images.firstOf(" = " + load))
                .with("same_key", images.sameKey("t", "b"))
                .with("written_by", writtenBy)
                .with("load", load)
                .with("t_origin", dialect.column("t", origin))
                .with("b_origin", dialect.column("b", origin))
                .with("differs", dialect.differs(dialect.column("b", column), dialect.column("t", column)))
                .text();
    }

    private String key() {
        return definition.rowKey().stream()
                .map(name -> dialect.asText(dialect.column("t", name)))
                .collect(Collectors.joining(" || ', ' || "));
    }
}
