package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.LostRowsException;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Scratch relations as Parquet files in a folder that the program and the cluster both see. Each has a folder of its own, and its
 * name is that of a view of the files there.
 */
final class ScratchFiles {

    private static final Pattern COLUMN_LIST = Pattern.compile("\\s*\\(([^()]+)\\)\\s*(?=select|with)");

    private final SparkWarehouse warehouse;
    private final SparkDialect dialect;
    private final Exchange exchange;
    private final Map<String, Path> folders = new HashMap<>();
    private final Map<String, List<Column>> columnsOf = new HashMap<>();
    private int parts;

    ScratchFiles(SparkWarehouse warehouse, SparkDialect dialect, Exchange exchange) {
        this.warehouse = warehouse;
        this.dialect = dialect;
        this.exchange = exchange;
    }

    /** The rows of a query become a scratch relation, replacing an older one. */
    void keep(String relation, String query) {
        columnsOf.remove(relation);
        Path folder = exchange.next(relation);
        folders.put(relation, folder);
        write(relation, folder, query);
    }

    private void write(String relation, Path folder, String query) {
        warehouse.execute(dialect.written(Exchange.seen(folder.resolve("part_" + ++parts)), query));
        warehouse.standsIn(folder, relation);
    }

    /** Further files beside those that are there, in the very types of the first. */
    void append(String relation, String query) {
        Matcher list = COLUMN_LIST.matcher(query);
        boolean isListed = list.lookingAt();
        List<String> given = isListed ? List.of(list.group(1).replace("`", "").split(", *")) : List.of();
        List<Column> all = columnsOf.computeIfAbsent(
                relation, any -> warehouse.describe("select * from " + dialect.quote(relation)));
        List<String> names = isListed ? given : all.stream().map(Column::name).toList();
        String values = dialect.list(all, column -> {
            String value = names.contains(column.name()) ? dialect.column("zk_given", column.name()) : "null";
            return dialect.cast(value, column.type()) + " as " + dialect.quote(column.name());
        });
        write(
                relation,
                Objects.requireNonNull(folders.get(relation)),
                "select " + values + "\nfrom (\n" + (isListed ? query.substring(list.end()) : query)
                        + "\n) as zk_given (" + dialect.columns(names) + ")");
    }

    /**
     * A relation of the engine that reads files becomes a scratch relation of the cluster.
     *
     * @throws LostRowsException when the cluster does not find as many rows as were staged
     */
    void receive(String relation, Stager from) {
        columnsOf.remove(relation);
        Path folder = exchange.made(relation);
        folders.put(relation, folder);
        Path file = folder.resolve("staged.parquet");
        from.execute("copy (select " + values(relation, from) + " from " + relation + ") to "
                + from.dialect().text(file.toString()) + " (format parquet)");
        exchange.written(file);
        warehouse.standsIn(folder, relation);
        long staged = from.number("select count(*) from " + relation);
        long taken = warehouse.number("select count(*) from " + relation);
        if (staged != taken) {
            throw new LostRowsException("of " + staged + " staged rows it took over " + taken);
        }
    }

    /** The cluster has no times of the day: they come as texts. */
    private static String values(String relation, Stager from) {
        List<String> values = new ArrayList<>();
        for (Column column : from.describe("select * from " + relation)) {
            String name = from.dialect().quote(column.name());
            values.add(column.type().equals(SqlType.TIME) ? from.dialect().asText(name) + " as " + name : name);
        }
        return String.join(", ", values);
    }

    /** The rows of a query of the cluster become a relation of the engine that reads files. */
    void handOver(String query, String relation, Stager to) {
        Path folder = exchange.next(relation);
        warehouse.execute(
                "insert overwrite directory " + dialect.text(Exchange.seen(folder)) + " using parquet\n" + query);
        to.keep(relation, "select * from read_parquet(" + to.dialect().text(folder + "/*.parquet") + ")");
    }

    /** What was made for one transaction is of no use to the next. */
    void forget() {
        folders.clear();
        columnsOf.clear();
        exchange.clear();
    }
}
