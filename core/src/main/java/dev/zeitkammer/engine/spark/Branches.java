package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.GuardException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * A transaction over several tables, of which the catalog knows none. All that a transaction writes goes to a branch of each
 * table, which this session reads instead of the table while it lasts and no other reader sees. To commit, the names of the tables
 * are entered in one table, in one commit of the catalog: that decides. Then each table is put forward to its branch. Where the
 * program ends in between, the next load puts forward what was decided, and drops branches about which nothing was.
 */
final class Branches {

    /** The property of tables that take writes to the branch of the session. */
    static final String ENABLED = "write.wap.enabled";

    private static final String SESSION = "spark.wap.branch";
    private static final String DECIDED = "decided";
    private static final String LOAD = "zk_load_";
    private static final String REHEARSAL = "zk_rehearsal_";
    private static final int ID = 8;

    private final SparkWarehouse warehouse;
    private final Set<String> written = new LinkedHashSet<>();
    private Map<String, Long> before = Map.of();
    private @Nullable String branch;

    Branches(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
    }

    /** Makes the table in which commits are decided. */
    void create() {
        warehouse.execute("create table if not exists " + warehouse.book(DECIDED)
                + " (branch string, nth int, table_name string) using iceberg tblproperties ('format-version' = '2')");
    }

    /** @param lasting whether it may be committed; a rehearsal is not */
    void begin(boolean lasting) {
        String kind = lasting ? LOAD : REHEARSAL;
        branch = kind + Long.toHexString(Instant.now().getEpochSecond()) + "_"
                + UUID.randomUUID().toString().substring(0, ID);
        written.clear();
        before = lasting ? heads("main") : Map.of();
        warehouse.execute("set " + SESSION + "=" + branch);
    }

    /** A table will be written; tables are put forward in this order, and those of the books at last. */
    void writes(String table) {
        written.add(table);
    }

    void commit() {
        String own = Objects.requireNonNull(branch);
        warehouse.execute("reset " + SESSION);
        Collection<String> tables = inOrder(heads(own).keySet());
        Map<String, Long> now = heads("main");
        for (String table : tables) {
            if (!Objects.equals(before.get(table), now.get(table))) {
                throw new GuardException("Somebody else wrote to " + table
                        + " while this load ran; nothing of it is loaded. Load again");
            }
        }
        if (!tables.isEmpty()) {
            decide(own, tables);
            putForward(own, tables);
        }
        branch = null;
    }

    private List<String> inOrder(Set<String> tables) {
        Set<String> ordered = new LinkedHashSet<>(written);
        ordered.retainAll(tables);
        tables.stream().filter(table -> !warehouse.isBook(table)).forEach(ordered::add);
        ordered.addAll(tables);
        return List.copyOf(ordered);
    }

    private void decide(String own, Collection<String> tables) {
        List<String> rows = new ArrayList<>();
        for (String table : tables) {
            rows.add("(" + warehouse.dialect().text(own) + ", " + rows.size() + ", "
                    + warehouse.dialect().text(table) + ")");
        }
        warehouse.execute("insert into " + warehouse.book(DECIDED) + " values " + String.join(", ", rows));
    }

    private void putForward(String own, Collection<String> tables) {
        for (String table : tables) {
            warehouse.query(
                    "call " + warehouse.catalog() + ".system.fast_forward("
                            + warehouse.dialect().text(table) + ", 'main', "
                            + warehouse.dialect().text(own) + ")",
                    row -> true);
        }
        drop(own, tables);
        warehouse.execute("delete from " + warehouse.book(DECIDED) + " where branch = "
                + warehouse.dialect().text(own));
    }

    private void drop(String own, Collection<String> tables) {
        for (String table : tables) {
            warehouse.execute(
                    "alter table " + warehouse.catalog() + "." + table + " drop branch if exists `" + own + "`");
        }
    }

    /** Drops what the transaction wrote. */
    void takeBack() {
        if (branch == null) {
            return;
        }
        String own = branch;
        branch = null;
        warehouse.execute("reset " + SESSION);
        drop(own, heads(own).keySet());
    }

    /** Ends what a load that was cut off has decided, and takes back what it had not; only whoever has the lock may do that. */
    void recover() {
        Map<String, List<String>> decided = new LinkedHashMap<>();
        warehouse.query(
                "select branch, table_name from " + warehouse.book(DECIDED) + " order by branch, nth",
                row -> decided.computeIfAbsent(String.valueOf(row.text(1)), any -> new ArrayList<>())
                        .add(String.valueOf(row.text(2))));
        decided.forEach((own, tables) -> putForward(own, stillBranched(own, tables)));
        leftBehind().forEach((own, tables) -> drop(own, tables));
    }

    /** The tables that were not put forward, or whose branch was not dropped. */
    private List<String> stillBranched(String own, List<String> tables) {
        Set<String> branched = heads(own).keySet();
        return tables.stream().filter(branched::contains).toList();
    }

    private Map<String, List<String>> leftBehind() {
        Map<String, List<String>> left = new HashMap<>();
        refs("name like '" + LOAD.replace("_", "\\\\_") + "%'")
                .forEach(ref -> left.computeIfAbsent(ref.name(), any -> new ArrayList<>())
                        .add(ref.table()));
        return left;
    }

    private record Ref(String table, String name, long snapshot) {}

    /** The snapshots at which a branch stands, by table. */
    private Map<String, Long> heads(String name) {
        Map<String, Long> heads = new LinkedHashMap<>();
        refs("name = " + warehouse.dialect().text(name)).forEach(ref -> heads.put(ref.table(), ref.snapshot()));
        return heads;
    }

    private List<Ref> refs(String condition) {
        Set<String> tables = warehouse.standing();
        if (tables.isEmpty()) {
            return List.of();
        }
        String sql = tables.stream()
                .map(table -> "select " + warehouse.dialect().text(table) + " as zk_table, name, snapshot_id from "
                        + warehouse.catalog() + "." + table + ".refs where " + condition)
                .collect(Collectors.joining("\nunion all\n"));
        return warehouse.query(
                sql, row -> new Ref(String.valueOf(row.text(1)), String.valueOf(row.text(2)), row.number(3)));
    }
}
