package dev.zeitkammer.engine.spark;

import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Where tables stand, each with its branch of a transaction.
 *
 * @param branch the name of the branch
 * @param lines the table itself, its branch, and the snapshots that led there
 */
record Heads(String branch, List<Line> lines) {

    /** The branch that every reader sees. */
    static final String MAIN = "main";

    /** What a snapshot is called that has the rows of the one before in other files. */
    private static final String COMPACTION = "replace";

    /** A branch of a table and its snapshot, or a snapshot without a name and the one that it follows. */
    record Line(String table, String name, long snapshot, long parent, String operation) {}

    /** What others did to a table meanwhile. */
    enum Since {
        NOTHING,
        /** The same rows stand in other files. */
        FILES,
        ROWS
    }

    /** The tables that have the branch. */
    Set<String> branched() {
        return lines.stream()
                .filter(line -> line.name().equals(branch))
                .map(Line::table)
                .collect(Collectors.toCollection(LinkedHashSet::new));
    }

    /**
     * What others changed of a table since it was first read, and since its branch grew out of it.
     *
     * @param base the snapshot of each table when it was first read
     */
    Since since(String table, Map<String, Long> base) {
        Map<Long, Line> snapshots = new HashMap<>();
        lines.stream()
                .filter(line -> line.table().equals(table) && line.name().isEmpty())
                .forEach(line -> snapshots.put(line.snapshot(), line));
        long main = snapshot(table, MAIN);
        Set<Long> grown = grown(snapshot(table, branch), snapshots);
        if (base.containsKey(table) && !reaches(main, Set.of(base.get(table)), snapshots)) {
            return Since.ROWS;
        }
        if (grown.contains(main)) {
            return Since.NOTHING;
        }
        return reaches(main, grown, snapshots) ? Since.FILES : Since.ROWS;
    }

    /** A snapshot and those that it follows; at last 0, from which every table comes. */
    private static Set<Long> grown(long head, Map<Long, Line> snapshots) {
        Set<Long> all = new HashSet<>();
        long at = head;
        while (at != 0 && all.add(at)) {
            at = snapshots.containsKey(at) ? snapshots.get(at).parent() : 0;
        }
        all.add(0L);
        return all;
    }

    /** Whether compactions alone lead from one of some snapshots to another one. */
    private static boolean reaches(long now, Set<Long> before, Map<Long, Line> snapshots) {
        long at = now;
        while (!before.contains(at)
                && snapshots.containsKey(at)
                && snapshots.get(at).operation().equals(COMPACTION)) {
            at = snapshots.get(at).parent();
        }
        return before.contains(at);
    }

    /** The snapshot of a table or a branch of it; 0 where there is none yet. */
    long snapshot(String table, String name) {
        return lines.stream()
                .filter(line -> line.table().equals(table) && line.name().equals(name))
                .mapToLong(Line::snapshot)
                .findFirst()
                .orElse(0);
    }
}
