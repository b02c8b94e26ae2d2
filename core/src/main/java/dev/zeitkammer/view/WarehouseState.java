package dev.zeitkammer.view;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.Journal.WaitingRows;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SealBooks;
import dev.zeitkammer.books.SealBooks.Accepted;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.engine.Warehouse;
import java.time.Duration;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What an operator asks of a warehouse: what runs, whether the newest load came when it was due, what each table's last load was
 * like, and what waits. It follows from the books and from what the engine says of disks; tables are read only where it is asked
 * whether they stand as loads left them.
 *
 * @param at when this was read, in UTC
 * @param unreadable why the warehouse could not be read; empty where it could
 * @param loads every load, the oldest first
 * @param waiting the rows that wait, by table
 * @param accepted the changes by hand that were accepted, the oldest first
 * @param disk how much room it takes now, and took before; empty where that is not known
 * @param changed the tables that somebody changed but loads; empty where it was not asked
 */
public record WarehouseState(
        String project,
        String warehouse,
        LocalDateTime at,
        Optional<String> unreadable,
        List<LoadEntry> loads,
        List<WaitingRows> waiting,
        List<Accepted> accepted,
        DiskSizes disk,
        Optional<List<String>> changed) {

    /** From this many times of what is usual a load is slow. */
    private static final double SLOW = 2;

    /** What takes no longer is never slow, in seconds. */
    private static final double QUICK = 1;

    /** From this many times of the usual time between loads the next one is overdue. */
    private static final double OVERDUE = 1.5;

    /** So many of the newest loads tell what is usual, and at least so many must have been done. */
    private static final int LATELY = 30;

    private static final int FEWEST = 4;

    /** Loads that follow each other faster catch up with days that were left out; when the next is due follows from none of them. */
    private static final Duration SHORTEST_PAUSE = Duration.ofMinutes(10);

    public WarehouseState {
        loads = List.copyOf(loads);
        waiting = List.copyOf(waiting);
        accepted = List.copyOf(accepted);
        changed = changed.map(List::copyOf);
    }

    /**
     * How a table's newest load went.
     *
     * @param usual the median of the seconds of its loads before; empty before the second
     * @param lately the seconds of its newest loads that were done, the oldest first
     * @param waiting its rows that wait
     */
    public record TableState(
            LoadEntry load,
            TableEntry entry,
            Optional<Double> usual,
            List<Double> lately,
            Optional<WaitingRows> waiting) {

        public boolean isSlow() {
            return WarehouseState.isSlow(entry.seconds(), usual);
        }
    }

    /**
     * Reads the books of a warehouse.
     *
     * @param disk how much room it takes now, and took before
     * @param changed the tables that somebody changed but loads; empty where it was not asked
     */
    public static WarehouseState read(
            String project, Warehouse warehouse, LocalDateTime at, DiskSizes disk, Optional<List<String>> changed) {
        Journal journal = new Journal(warehouse);
        return new WarehouseState(
                project,
                warehouse.title(),
                at,
                Optional.empty(),
                journal.loads(),
                journal.waitingByTable(),
                new SealBooks(warehouse).accepted(),
                disk,
                changed);
    }

    /** A warehouse that could not be read, be it that a load has it to itself. */
    public static WarehouseState unreadable(
            String project, String warehouse, LocalDateTime at, DiskSizes before, String why) {
        return new WarehouseState(
                project, warehouse, at, Optional.of(why), List.of(), List.of(), List.of(), before, Optional.empty());
    }

    /** The load that has begun and not ended: it runs, or was cut off. */
    public Optional<LoadEntry> begun() {
        return newest().filter(load -> load.ended().isEmpty());
    }

    public Optional<LoadEntry> newest() {
        return loads.isEmpty() ? Optional.empty() : Optional.of(loads.get(loads.size() - 1));
    }

    /** The newest load that was done. */
    public Optional<LoadEntry> newestDone() {
        return done().stream().reduce((first, second) -> second);
    }

    private List<LoadEntry> done() {
        return loads.stream()
                .filter(load -> load.status() == LoadStatus.DONE && load.ended().isPresent())
                .toList();
    }

    /** How long ago the newest load that was done has ended. */
    public Optional<Duration> age() {
        return newestDone().flatMap(LoadEntry::ended).map(ended -> Duration.between(ended, at));
    }

    /**
     * The median of the times between the beginnings of the newest loads that were done; empty where they are fewer than four, or
     * where it is less than ten minutes.
     */
    public Optional<Duration> usualPause() {
        List<LoadEntry> done = done();
        if (done.size() < FEWEST) {
            return Optional.empty();
        }
        List<LoadEntry> lately = done.subList(Math.max(0, done.size() - LATELY), done.size());
        List<Double> pauses = new ArrayList<>();
        for (int index = 1; index < lately.size(); index++) {
            pauses.add((double) Duration.between(
                            lately.get(index - 1).started(), lately.get(index).started())
                    .toSeconds());
        }
        return median(pauses)
                .map(seconds -> Duration.ofSeconds(seconds.longValue()))
                .filter(pause -> pause.compareTo(SHORTEST_PAUSE) >= 0);
    }

    /** Whether the next load should have ended by now, going by when the loads before did: more than one and a half times their pause ago. */
    public boolean isOverdue() {
        return age().flatMap(age -> usualPause().map(pause -> age.toSeconds() > OVERDUE * pause.toSeconds()))
                .orElse(false);
    }

    /** How the newest load of each table went, in the order in which they were loaded first. */
    public List<TableState> tables() {
        Map<String, List<TableEntry>> entries = new LinkedHashMap<>();
        Map<String, LoadEntry> newest = new LinkedHashMap<>();
        for (LoadEntry load : loads) {
            for (TableEntry entry : load.tables()) {
                entries.computeIfAbsent(entry.table(), first -> new ArrayList<>())
                        .add(entry);
                newest.put(entry.table(), load);
            }
        }
        return entries.entrySet().stream()
                .map(table -> {
                    List<TableEntry> all = table.getValue();
                    return new TableState(
                            newest.get(table.getKey()),
                            all.get(all.size() - 1),
                            usual(all.subList(0, all.size() - 1)),
                            lately(all),
                            waiting.stream()
                                    .filter(rows -> rows.table().equals(table.getKey()))
                                    .findFirst());
                })
                .toList();
    }

    private static List<Double> lately(List<TableEntry> loads) {
        List<Double> seconds = seconds(loads);
        return seconds.subList(Math.max(0, seconds.size() - LATELY), seconds.size());
    }

    private static List<Double> seconds(List<TableEntry> loads) {
        return loads.stream()
                .filter(entry -> entry.status() == LoadStatus.DONE)
                .map(TableEntry::seconds)
                .toList();
    }

    /** The median of the seconds of those loads of a table that were done; empty without any. */
    public static Optional<Double> usual(List<TableEntry> before) {
        return median(seconds(before));
    }

    /** Whether a load took longer than a second, and more than twice of what is usual. */
    public static boolean isSlow(double seconds, Optional<Double> usual) {
        return usual.filter(median -> seconds > QUICK && seconds > SLOW * median)
                .isPresent();
    }

    private static Optional<Double> median(List<Double> numbers) {
        return numbers.isEmpty()
                ? Optional.empty()
                : Optional.of(numbers.stream().sorted().toList().get(numbers.size() / 2));
    }
}
