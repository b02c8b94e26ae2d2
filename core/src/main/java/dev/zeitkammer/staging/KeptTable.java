package dev.zeitkammer.staging;

import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.ZeitkammerException;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** The table of the staging schema in which an input keeps the latest row of each key. */
public final class KeptTable {

    /** The names of the columns that say when, and by which load, a row was kept. */
    public static final Set<String> STAMPS =
            AuditColumn.STAMPS.stream().map(AuditColumn::columnName).collect(Collectors.toUnmodifiableSet());

    private static final String AWAY = "zk_away_";

    private final Input input;
    private final Warehouse warehouse;
    private final Dialect dialect;
    private final String schema;
    private final String name;

    public KeptTable(Input input, Warehouse warehouse) {
        this(input, warehouse, input.name().text());
    }

    private KeptTable(Input input, Warehouse warehouse, String name) {
        this.input = input;
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
        this.schema = warehouse.stagingSchema();
        this.name = name;
    }

    /** The table beside it of rows that took their keys away, by key and order: an older row must not bring a key back. */
    public KeptTable away() {
        return new KeptTable(input, warehouse, AWAY + name);
    }

    /** What messages and books call the table of an input. */
    public static String shown(Input input) {
        return "staging." + input.name();
    }

    /** What messages and books call it. */
    public String shown() {
        return "staging." + name;
    }

    /** The table in SQL. */
    public String quoted() {
        return dialect.quote(schema) + "." + dialect.quote(name);
    }

    private Optional<String> comment() {
        return warehouse.comment(schema, name);
    }

    /** Whether it stands, and is this program's: one in which rows are kept, or retained. */
    public boolean stands() {
        return comment().filter(comment -> comment.endsWith(Warehouse.KEPT)).isPresent();
    }

    /** Its columns without the stamps; none where nothing is kept yet. */
    public List<Column> columns() {
        return comment().isEmpty()
                ? List.of()
                : warehouse.describe("select * from " + quoted()).stream()
                        .filter(column -> !STAMPS.contains(column.name().toLowerCase(Locale.ROOT)))
                        .toList();
    }

    /** The kept rows as a relation. */
    String rows(List<Column> columns) {
        return "(select " + dialect.columns(columns.stream().map(Column::name).toList()) + " from " + quoted()
                + ") as kept";
    }

    /**
     * Refuses a table that is somebody else's.
     *
     * @throws ZeitkammerException where there is one
     */
    public void refuseForeign() {
        if (comment().filter(comment -> !comment.endsWith(Warehouse.KEPT)).isPresent()) {
            throw new ZeitkammerException(
                    "Cannot keep the rows of the input \"" + input.name() + "\": there is a table " + schema + "."
                            + name + " that this program does not keep; rename it, or leave out keep");
        }
    }

    /** Statements that make it of the rows of a query. */
    public List<String> made(String query) {
        return List.of(
                "create schema if not exists " + dialect.quote(schema),
                dialect.createTableOf(quoted(), query),
                dialect.commentOnTable(
                        quoted(),
                        (name.startsWith(AWAY)
                                        ? "Rows that took their keys away from the input; "
                                        : "The latest row of each key of the input; ")
                                + Warehouse.KEPT));
    }
}
