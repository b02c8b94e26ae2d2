package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Upkeep;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.OptionalLong;
import java.util.stream.Collectors;

/** Upkeep of the files of tables. */
final class FilesUpkeep {

    private static final DateTimeFormatter TIMESTAMP = DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss");

    /** Three quarters of the size that files are written with; smaller ones are put together. */
    private static final long FULL = 402_653_184;

    private final SparkWarehouse warehouse;
    private final Dialect dialect;

    FilesUpkeep(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
        this.dialect = warehouse.dialect();
    }

    /** Small files become large ones, rows that were deleted leave them, and snapshots that are old enough go with their files. */
    List<Upkeep> tidy(List<String> tables, int days) {
        String system = warehouse.catalogName() + ".system.";
        String until = TIMESTAMP.format(LocalDateTime.now(ZoneOffset.UTC).minusDays(days));
        List<Upkeep> done = new ArrayList<>();
        for (String table : tables) {
            String name = dialect.text(warehouse.unqualified(table));
            Upkeep.Size before = size(List.of(table));
            boolean isToDo = hasFilesToPutTogether(table);
            if (isToDo) {
                warehouse.query(
                        "call " + system + "rewrite_data_files(table => " + name
                                + ", options => map('delete-file-threshold', '1', 'min-input-files', '2'))",
                        row -> true);
                warehouse.query("call " + system + "rewrite_position_delete_files(table => " + name + ")", row -> true);
                warehouse.query("call " + system + "rewrite_manifests(table => " + name + ")", row -> true);
            }
            if (isToDo || hasSnapshotsBefore(table, until)) {
                warehouse.query(
                        "call " + system + "expire_snapshots(table => " + name + ", older_than => timestamp_ltz '"
                                + until + "', retain_last => 1)",
                        row -> true);
            }
            done.add(new Upkeep(warehouse.unqualified(table).replace("`", ""), before, size(List.of(table))));
        }
        return done;
    }

    /** Whether anything was written since the last time: two files of one partition that are not full, or rows that left theirs. */
    private boolean hasFilesToPutTogether(String table) {
        return warehouse.number("select count(*) from (select 1 from " + table + ".files group by spec_id"
                        + partition(table) + " having max(content) > 0 or count(case when file_size_in_bytes < " + FULL
                        + " then 1 end) > 1) as partitions")
                > 0;
    }

    /** A table without partitions has no such column. */
    private String partition(String table) {
        return warehouse.describe("select * from " + table + ".files").stream()
                        .anyMatch(column -> column.name().equals("partition"))
                ? ", partition"
                : "";
    }

    /** Whether readers may still go back further than they need. */
    private boolean hasSnapshotsBefore(String table, String until) {
        return warehouse.number("select count(*) from " + table + ".snapshots where committed_at < timestamp_ltz '"
                        + until + "'")
                > 1;
    }

    Upkeep.Size size(List<String> tables) {
        if (tables.isEmpty()) {
            return new Upkeep.Size(OptionalLong.of(0), 0);
        }
        String files = tables.stream()
                .map(table -> "select file_path, file_size_in_bytes from " + table + ".all_files")
                .collect(Collectors.joining("\nunion\n"));
        return warehouse
                .query(
                        "select count(*), coalesce(sum(file_size_in_bytes), 0) from (\n" + files + "\n) as files",
                        row -> new Upkeep.Size(OptionalLong.of(row.number(1)), row.number(2)))
                .get(0);
    }
}
