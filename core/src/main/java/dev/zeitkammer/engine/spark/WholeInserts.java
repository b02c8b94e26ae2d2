package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.TableChange;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/** Inserts that name every column, as the cluster wants them. */
final class WholeInserts {

    private final SparkWarehouse warehouse;
    private final Dialect dialect;
    private final Map<String, List<Column>> columnsOf = new HashMap<>();

    WholeInserts(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
    }

    /** Tables may have other columns from now on. */
    void forget() {
        columnsOf.clear();
    }

    /** An insert must name every column here; those that it leaves out are null. */
    TableChange of(TableChange change) {
        if (!(change instanceof TableChange.Insert insert)) {
            return change;
        }
        List<String> missing = missing(insert.table(), insert.columns());
        List<String> all = new ArrayList<>(insert.columns());
        all.addAll(missing);
        return new TableChange.Insert(insert.caption(), insert.table(), all, padded(insert.query(), missing));
    }

    /** The same for the books. */
    BookChange of(BookChange change) {
        if (!(change instanceof BookChange.Insert insert)) {
            return change;
        }
        List<String> missing = missing(insert.book(), List.of(insert.columns().split(", *")));
        String all = insert.columns()
                + missing.stream().map(name -> ", " + dialect.quote(name)).collect(Collectors.joining());
        return new BookChange.Insert(insert.caption(), insert.book(), all, padded(insert.query(), missing));
    }

    private List<String> missing(String table, List<String> given) {
        return columnsOf.computeIfAbsent(table, any -> warehouse.describe("select * from " + table)).stream()
                .map(Column::name)
                .filter(name -> given.stream().noneMatch(name::equalsIgnoreCase))
                .toList();
    }

    private static String padded(String query, List<String> missing) {
        return missing.isEmpty()
                ? query
                : "select zk_given.*" + ", null".repeat(missing.size()) + "\nfrom (\n" + query + "\n) as zk_given";
    }
}
