package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Stager;
import java.util.Collection;
import java.util.List;
import java.util.TreeSet;

/**
 * The rows of a relation that came from one file, by their numbers.
 *
 * @param first the number of the file's first row
 * @param wanted those that are looked for, in order
 */
record FileRows(int file, long first, TreeSet<Long> wanted) {

    /** The files that hold wanted rows, in their order. */
    static List<FileRows> of(Stager stager, String relation, Collection<Long> wanted) {
        TreeSet<Long> all = new TreeSet<>(wanted);
        // rows are numbered without gaps in order of files, also where lines among them were no rows
        return stager
                .query(
                        "select zk_file, min(rowid), max(rowid) from " + Staging.readInto(relation)
                                + " group by zk_file order by zk_file",
                        row -> new FileRows(
                                (int) row.number(1),
                                row.number(2),
                                new TreeSet<>(all.subSet(row.number(2), true, row.number(3), true))))
                .stream()
                .filter(here -> !here.wanted().isEmpty())
                .toList();
    }
}
