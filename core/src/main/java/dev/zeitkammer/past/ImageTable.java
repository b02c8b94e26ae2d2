package dev.zeitkammer.past;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.KeptTable;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * The table in the schema of the books that keeps a table's rows as they were: its columns, with the load that wrote over a row,
 * and a number in order of its writing.
 */
public final class ImageTable {

    /** The load that wrote over the row. */
    static final String LOAD = "zk_load";

    /** In which order, within the load; the first image of a row is the row before the load. */
    static final String NTH = "zk_nth";

    private static final String PREFIX = "before_";
    private static final int LONGEST = 48;

    private final Warehouse warehouse;
    private final Imaged imaged;
    private final Dialect dialect;

    public ImageTable(Warehouse warehouse, Definition definition) {
        this(warehouse, Imaged.of(definition, warehouse));
    }

    /** @param table the one of a kept input's rows, or the one beside it of keys that were taken away */
    public ImageTable(Warehouse warehouse, Input input, KeptTable table) {
        this(warehouse, Imaged.of(input, table, warehouse));
    }

    private ImageTable(Warehouse warehouse, Imaged imaged) {
        this.warehouse = warehouse;
        this.imaged = imaged;
        this.dialect = warehouse.dialect();
    }

    Warehouse warehouse() {
        return warehouse;
    }

    /** The table whose rows are kept. */
    public String of() {
        return imaged.name();
    }

    private String name() {
        String table = imaged.name();
        String plain =
                table.length() <= LONGEST ? table : table.substring(0, LONGEST) + Integer.toHexString(table.hashCode());
        return PREFIX + plain.toLowerCase(Locale.ROOT);
    }

    /** Whether images were ever kept. */
    public boolean stands() {
        return warehouse.books().contains(name());
    }

    /** In SQL. */
    String table() {
        return warehouse.book(dialect.quote(name()));
    }

    String target() {
        return imaged.target();
    }

    /** The columns of the table as it stands. */
    List<String> columns() {
        return imaged.columns().get();
    }

    /** The columns that identify a row; none of a fact whose rows are only ever added. */
    public List<String> key() {
        return imaged.key();
    }

    /**
     * SQL for rows as they were before loads, each once: the first image of those that the loads did not insert themselves.
     *
     * @param those a comparison with their numbers, such as {@code = 7}
     */
    public String firstOf(String those) {
        String order = key().isEmpty() ? "" : "partition by " + dialect.columns(key()) + " ";
        return Sql.of("""
                select b.*
                from (
                  select i.*, row_number() over (${partition}order by ${load_column}, ${nth_column}) as zk_place
                  from ${images} as i
                  where ${load_column}${those}
                ) as b
                where ${first}not (${inserted_by}${those})""")
                .with("partition", order)
                .with("first", key().isEmpty() ? "" : "zk_place = 1 and ")
                .with("load_column", LOAD)
                .with("nth_column", NTH)
                .with("images", table())
                .with("inserted_by", insertedBy("b"))
                .with("those", those)
                .text();
    }

    String updatedBy() {
        return imaged.updatedBy();
    }

    /** The load that inserted a row, of an alias. */
    String insertedBy(String alias) {
        return dialect.column(alias, imaged.insertedBy());
    }

    /** Whether rows of the table tell which load inserted them, so that they can be told apart. */
    boolean isStamped() {
        String column = imaged.insertedBy();
        return columns().stream().anyMatch(column::equals);
    }

    /** Makes the table, or makes it fit again after columns of the star's table were added, renamed or widened. */
    void align() {
        if (!stands()) {
            warehouse.execute(dialect.createTableOf(
                    table(),
                    "select cast(0 as bigint) as " + LOAD + ", cast(0 as integer) as " + NTH + ", t.*\nfrom " + target()
                            + " as t\nwhere false"));
            return;
        }
        List<Column> both =
                warehouse.describe("select t.*, b.* from " + target() + " as t cross join " + table() + " as b");
        List<Column> wanted =
                new ArrayList<>(List.of(new Column(LOAD, SqlType.BIGINT), new Column(NTH, SqlType.INTEGER)));
        int first = both.stream().map(Column::name).toList().indexOf(LOAD);
        wanted.addAll(both.subList(0, first));
        List<Column> existing = both.subList(first, both.size());
        for (Column column : wanted) {
            Optional<Column> known = existing.stream()
                    .filter(each -> each.name().equals(column.name()))
                    .findFirst();
            if (known.isPresent() && !known.get().type().equals(column.type())) {
                warehouse.execute(dialect.alterColumn(table(), column));
            } else if (known.isEmpty()) {
                added(column, existing, wanted);
            }
        }
    }

    private void added(Column column, List<Column> existing, List<Column> wanted) {
        Optional<String> was = imaged.formerName()
                .apply(column.name())
                .filter(name -> existing.stream().anyMatch(each -> each.name().equals(name)))
                .filter(name -> wanted.stream().noneMatch(each -> each.name().equals(name)));
        warehouse.execute(
                was.isPresent()
                        ? dialect.renameColumn(table(), was.get(), column.name())
                        : dialect.addColumn(table(), column));
    }

    /** Whether a row of one alias is of the same key as one of another. */
    public String sameKey(String left, String right) {
        return key().stream()
                .map(name -> dialect.column(left, name) + " = " + dialect.column(right, name))
                .collect(Collectors.joining(" and "));
    }
}
