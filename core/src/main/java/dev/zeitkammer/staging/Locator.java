package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.staging.StagedRows.BadLine;
import java.io.IOException;
import java.io.Reader;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;

/** Finds the file, line and original text of staged rows, by their numbers; only needed for rows that are set aside. */
public final class Locator {

    private final Warehouse stager;
    private final StagedRows staged;

    public Locator(Warehouse warehouse, StagedRows staged) {
        this.stager = warehouse.stager();
        this.staged = staged;
    }

    /** Where a staged row stands. */
    public record Located(long row, String file, long line, String text) {}

    /** The places of the rows, in order; reads each file concerned once, up to the last row wanted. */
    public List<Located> locate(List<Long> rows) {
        TreeSet<Long> wanted = new TreeSet<>(rows);
        List<Located> located = new ArrayList<>();
        for (Stretch stretch : stretches()) {
            Set<Long> here = wanted.subSet(stretch.first(), true, stretch.last(), true);
            if (!here.isEmpty()) {
                locate(stretch, here, located);
            }
        }
        return located;
    }

    /** The row numbers of a file. */
    private record Stretch(int file, long first, long last) {}

    private List<Stretch> stretches() {
        return stager.query(
                "select zk_file, min(zk_row), max(zk_row) from " + StagedRows.TABLE + " group by zk_file order by 1",
                row -> new Stretch((int) row.number(1), row.number(2), row.number(3)));
    }

    private void locate(Stretch stretch, Set<Long> wanted, List<Located> located) {
        StagedFiles files = staged.files();
        Path file = files.files().get(stretch.file()).path();
        boolean blankIsRow = files.header().size() == 1;
        Set<Long> rejected = rejected(stretch.file());
        int missing = wanted.size();
        long record = 1;
        long row = stretch.first();
        try (Reader reader = TextFiles.open(file, files.input().csv().encoding())) {
            RecordScanner records = new RecordScanner(reader, files.delimiter().charAt(0));
            records.next();
            while (missing > 0 && records.next()) {
                record++;
                if (rejected.contains(record) || (records.isBlank() && !blankIsRow)) {
                    continue;
                }
                if (wanted.contains(row)) {
                    located.add(new Located(row, files.shown(file), records.line(), records.text()));
                    missing--;
                }
                row++;
            }
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + files.shown(file) + ": " + unreadable.getMessage(), unreadable);
        }
    }

    private Set<Long> rejected(int file) {
        Set<Long> records = new HashSet<>();
        for (BadLine line : staged.badLines()) {
            if (line.file() == file) {
                records.add(line.record());
            }
        }
        return records;
    }
}
