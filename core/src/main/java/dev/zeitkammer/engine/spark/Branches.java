package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.CompactedException;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.spark.Heads.Since;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.regex.Pattern;
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
    static final String DECIDED = "decided";
    private static final String LOAD = "zk_load_";
    private static final String REHEARSAL = "zk_rehearsal_";
    private static final Duration LONG_AGO = Duration.ofDays(2);
    private static final Pattern SCRATCH =
            Pattern.compile("insert overwrite directory|create or replace temporary view");
    private static final int ID = 8;

    private final SparkWarehouse warehouse;
    private final BranchMetadata metadata;
    private final Set<String> written = new LinkedHashSet<>();
    private final List<String> executed = new ArrayList<>();
    private final Set<String> carriedOut = new LinkedHashSet<>();
    /**
     * The snapshot of each table when this session first read any, and since it put the table forward itself. The books are not among
     * them: this session writes to them between transactions, and nobody else does.
     */
    private final Map<String, Long> base = new HashMap<>();

    private @Nullable String branch;
    private boolean isStuck;

    Branches(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
        this.metadata = new BranchMetadata(warehouse);
    }

    /** Makes the table in which commits are decided. */
    void create() {
        warehouse.execute("create table if not exists " + warehouse.book(DECIDED)
                + " (branch string, nth int, table_name string) using iceberg tblproperties ('format-version' = '2')");
    }

    /** Another load of this session reads what stands now. */
    void forgetBase() {
        base.clear();
    }

    /** @param lasting whether it may be committed; a rehearsal is not */
    void begin(boolean lasting) {
        String kind = lasting ? LOAD : REHEARSAL;
        branch = kind + Long.toHexString(Instant.now().getEpochSecond()) + "_"
                + UUID.randomUUID().toString().substring(0, ID);
        written.clear();
        executed.clear();
        if (base.isEmpty()) {
            List<String> tables = warehouse.standing().stream()
                    .filter(table -> !warehouse.isBook(table))
                    .toList();
            metadata.lines(
                            tables,
                            table -> metadata.refs(
                                    table, "name = " + warehouse.dialect().text(Heads.MAIN)))
                    .forEach(line -> base.put(line.table(), line.snapshot()));
        }
        warehouse.execute("set " + SESSION + "=" + branch);
    }

    /** A statement of the transaction may write the tables whose names it holds, unless it makes a scratch relation. */
    void executes(String sql) {
        if (branch != null && !SCRATCH.matcher(sql).lookingAt()) {
            executed.add(sql.toLowerCase(Locale.ROOT));
        }
    }

    /**
     * A table will be written; tables are put forward in this order, and those of the books at last.
     *
     * @throws GuardException where it is one that takes no writes to branches, so that they would stand at once
     */
    void writes(String table) {
        if (!warehouse.takesBranches(table)) {
            throw new GuardException(
                    "The table " + table + " takes no writes to branches, so that what is loaded would stand"
                            + " before all of it is decided; zeitkammer align sets the property " + ENABLED
                            + " of tables that a definition calls standing");
        }
        written.add(table);
    }

    void commit() {
        String own = Objects.requireNonNull(branch);
        warehouse.execute("reset " + SESSION);
        Heads heads = heads(own);
        Collection<String> tables = inOrder(heads.branched());
        tables.forEach(table -> refuseChanged(table, heads.since(table, base)));
        if (!tables.isEmpty()) {
            decide(own, tables);
        }
        branch = null;
        if (!tables.isEmpty()) {
            carryOut(own, tables);
        }
        tables.stream()
                .filter(table -> !warehouse.isBook(table))
                .forEach(table -> base.put(table, heads.snapshot(table, own)));
    }

    private static void refuseChanged(String table, Since changed) {
        if (changed == Since.ROWS) {
            throw new GuardException(
                    "Somebody else wrote to " + table + " while this load ran; nothing of it is loaded. Load again");
        }
        if (changed == Since.FILES) {
            throw new CompactedException(table);
        }
    }

    private void carryOut(String own, Collection<String> tables) {
        try {
            putForward(own, tables);
        } catch (WarehouseException failed) {
            isStuck = true;
            throw failed;
        }
    }

    /** Whether a commit was decided and could not be carried out; nothing may be written before that is done. */
    boolean isStuck() {
        return isStuck;
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
        String values = "values " + String.join(", ", rows);
        Optional<String> isStillOurs = warehouse.isStillLocked();
        if (isStillOurs.isEmpty()) {
            warehouse.execute("insert into " + warehouse.book(DECIDED) + " " + values);
            return;
        }
        warehouse.execute("insert into " + warehouse.book(DECIDED) + " select * from " + values
                + " as own(branch, nth, table_name) where " + isStillOurs.get());
        long decided = warehouse.number("select count(*) from " + warehouse.book(DECIDED) + " where branch = "
                + warehouse.dialect().text(own));
        if (decided != rows.size()) {
            throw LoadLock.lost();
        }
    }

    private void putForward(String own, Collection<String> tables) {
        tables.forEach(table -> putForward(own, table));
        drop(own, tables);
        carriedOut.add(own);
    }

    /**
     * Deletes the decisions that were carried out. Those that are not deleted do no harm, as their branches are gone: that is why one
     * statement for all of a session's is enough.
     */
    void forgetCarriedOut() {
        if (!carriedOut.isEmpty()) {
            warehouse.execute("delete from " + warehouse.book(DECIDED) + " where branch in ("
                    + warehouse.dialect().list(carriedOut, warehouse.dialect()::text) + ")");
            carriedOut.clear();
        }
    }

    private void putForward(String own, String table) {
        try {
            warehouse.query(
                    "call " + warehouse.catalogName() + ".system.fast_forward("
                            + warehouse.dialect().text(table) + ", 'main', "
                            + warehouse.dialect().text(own) + ")",
                    row -> true);
        } catch (WarehouseException refused) {
            if (hasTakenItsPlace(own, table)) {
                return;
            }
            throw new WarehouseException(
                    "What was loaded into " + table + " stands in its branch " + own + " and cannot be put forward: "
                            + refused.getMessage()
                            + ". The next load tries it again; where somebody else has written to the"
                            + " table in between, bring the branch in by hand, drop it, and load again",
                    refused);
        }
    }

    /**
     * Where others compacted a table after the commit was decided, its branch holds the same rows as the table and those of the
     * commit: the table becomes the branch. What somebody wrote in the moment between looking and doing takes its place again.
     */
    private boolean hasTakenItsPlace(String own, String table) {
        Heads heads = metadata.heads(own, List.of(table));
        if (heads.since(table, Map.of()) != Since.FILES) {
            return false;
        }
        long head = heads.snapshot(table, own);
        become(table, head);
        List<Long> history = warehouse.query(
                "select snapshot_id from " + warehouse.catalogName() + "." + table
                        + ".history order by made_current_at",
                row -> row.number(1));
        int at = history.lastIndexOf(head);
        if (at < 1) {
            return false;
        }
        long before = history.get(at - 1);
        boolean isCompactionAlone = before == heads.snapshot(table, Heads.MAIN);
        if (!isCompactionAlone && at == history.size() - 1) {
            become(table, before);
        }
        return isCompactionAlone;
    }

    private void become(String table, long snapshot) {
        warehouse.query(
                "call " + warehouse.catalogName() + ".system.set_current_snapshot("
                        + warehouse.dialect().text(table) + ", " + snapshot + ")",
                row -> true);
    }

    private void drop(String own, Collection<String> tables) {
        for (String table : tables) {
            warehouse.execute(
                    "alter table " + warehouse.catalogName() + "." + table + " drop branch if exists `" + own + "`");
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
        drop(own, heads(own).branched());
    }

    /** Whether a commit was decided that has not been carried out. */
    boolean isUnfinished() {
        return warehouse.number("select count(*) from " + warehouse.book(DECIDED)) > 0;
    }

    /**
     * Ends what a load that was cut off has decided, and takes back what it had not, and rehearsals of long ago; only whoever has
     * the lock may do that.
     */
    void recover() {
        Map<String, List<String>> decided = new LinkedHashMap<>();
        warehouse.query(
                "select branch, table_name from " + warehouse.book(DECIDED) + " order by branch, nth",
                row -> decided.computeIfAbsent(String.valueOf(row.text(1)), any -> new ArrayList<>())
                        .add(String.valueOf(row.text(2))));
        Map<String, List<String>> left = leftBehind();
        decided.forEach((own, tables) -> {
            List<String> branched = left.getOrDefault(own, List.of());
            putForward(own, tables.stream().filter(branched::contains).toList());
        });
        left.keySet().removeAll(decided.keySet());
        left.forEach((own, tables) -> {
            if (own.startsWith(LOAD) || isOld(own)) {
                drop(own, tables);
            }
        });
        forgetCarriedOut();
        isStuck = false;
    }

    /** Whether a rehearsal began so long ago that it has ended. */
    private static boolean isOld(String rehearsal) {
        String began = rehearsal.substring(REHEARSAL.length()).split("_")[0];
        return Instant.ofEpochSecond(Long.parseLong(began, 16)).plus(LONG_AGO).isBefore(Instant.now());
    }

    /** The tables that have branches of loads and rehearsals, by branch. */
    private Map<String, List<String>> leftBehind() {
        Map<String, List<String>> left = new HashMap<>();
        metadata.lines(
                        warehouse.standing(),
                        table -> metadata.refs(
                                table,
                                "name like '" + LOAD.replace("_", "\\\\_") + "%' or name like '"
                                        + REHEARSAL.replace("_", "\\\\_") + "%'"))
                .forEach(line -> left.computeIfAbsent(line.name(), any -> new ArrayList<>())
                        .add(line.table()));
        return left;
    }

    /** Where the tables stand that were named, each with its branch of the transaction. */
    private Heads heads(String own) {
        return metadata.heads(
                own, warehouse.standing().stream().filter(this::mayBeWritten).toList());
    }

    /** Whether any statement held the name of the table, with or without its schema. */
    private boolean mayBeWritten(String table) {
        String name =
                table.substring(table.indexOf("`.`") + 3, table.length() - 1).toLowerCase(Locale.ROOT);
        return executed.stream().anyMatch(sql -> sql.contains(name));
    }
}
