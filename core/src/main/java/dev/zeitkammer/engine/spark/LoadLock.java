package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.WarehouseException;
import java.io.IOException;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;

/**
 * The lock of a warehouse's loads: a row of a table, changed in a commit that only one of two can make. Whoever has it shows, beside
 * its work, that it is still there; what was not seen for long, or whose process has ended where that can be known, left it behind. It
 * proves nothing that a load went on without it: every commit is decided under the condition that the lock is still held.
 */
final class LoadLock {

    /** How long nobody need be seen before the lock counts as left behind. */
    static final Duration LEFT_BEHIND = Duration.ofHours(1);

    private static final Duration SHOWS = Duration.ofMinutes(5);
    static final String TABLE = "load_lock";

    private final SparkWarehouse warehouse;
    private final Duration shows;
    private final String own;
    private @Nullable ScheduledExecutorService showing;
    private LocalDateTime asked = LocalDateTime.MIN;
    private boolean isHeld;

    LoadLock(SparkWarehouse warehouse) {
        this(warehouse, SHOWS);
    }

    /** @param shows how often it shows that it is still there */
    LoadLock(SparkWarehouse warehouse, Duration shows) {
        this.warehouse = warehouse;
        this.shows = shows;
        this.own = String.join(
                " ",
                machine().orElse(host()),
                String.valueOf(ProcessHandle.current().pid()),
                started(ProcessHandle.current()),
                UUID.randomUUID().toString());
    }

    private record Holder(String holder, LocalDateTime seen) {

        private boolean isFree() {
            return holder.isEmpty();
        }

        /** Whether whoever took it cannot be there any more. */
        private boolean isLeftBehind() {
            String[] words = holder.split(" ");
            if (machine().filter(words[0]::equals).isPresent()) {
                return ProcessHandle.of(Long.parseLong(words[1]))
                        .filter(process -> started(process).equals(words[2]))
                        .isEmpty();
            }
            return seen.plus(LEFT_BEHIND).isBefore(now());
        }
    }

    /**
     * What tells whether the number of a process means here what it meant there: the host, since when it runs, and the processes
     * that are numbered together; empty where this system does not say it.
     */
    static Optional<String> machine() {
        try {
            String boot =
                    Files.readString(Path.of("/proc/sys/kernel/random/boot_id")).strip();
            Path together = Files.readSymbolicLink(Path.of("/proc/self/ns/pid"));
            return Optional.of(host() + "/" + boot + "/" + together.toString().replaceAll("\\D", ""));
        } catch (IOException | UnsupportedOperationException otherSystem) {
            return Optional.empty();
        }
    }

    private static String host() {
        try {
            return InetAddress.getLocalHost().getHostName().replace(' ', '_');
        } catch (UnknownHostException nameless) {
            return "localhost";
        }
    }

    private static String started(ProcessHandle process) {
        return process.info()
                .startInstant()
                .map(moment -> String.valueOf(moment.getEpochSecond()))
                .orElse("0");
    }

    private static LocalDateTime now() {
        return LocalDateTime.now(ZoneOffset.UTC);
    }

    void create() {
        String table = warehouse.book(TABLE);
        warehouse.execute("create table if not exists " + table
                + " (holder string, seen timestamp_ntz) using iceberg tblproperties ('format-version' = '2')");
        if (holder().isEmpty()) {
            warehouse.execute("insert into " + table + " values ('', "
                    + warehouse.dialect().timestamp(now()) + ")");
        }
    }

    private Optional<Holder> holder() {
        return warehouse
                .query(
                        "select holder, seen from " + warehouse.book(TABLE) + " order by seen desc limit 1",
                        row -> new Holder(String.valueOf(row.text(1)), Objects.requireNonNull(row.timestamp(2))))
                .stream()
                .findFirst();
    }

    /** What came of taking it. */
    enum Taken {
        /** Another program has it. */
        NO,
        /** It was free. */
        YES,
        /** Somebody left it behind, and perhaps work half done. */
        LEFT_BEHIND
    }

    Taken take() {
        if (isHeld && isOwn()) {
            return Taken.YES;
        }
        Optional<Holder> standing = holder();
        if (standing.isEmpty() || !(standing.get().isFree() || standing.get().isLeftBehind())) {
            return Taken.NO;
        }
        try {
            become(own, standing.get().holder());
        } catch (WarehouseException another) {
            return Taken.NO; // two committed at once, and this one came second
        }
        isHeld = isOwn();
        if (!isHeld) {
            return Taken.NO;
        }
        asked = now();
        show();
        return standing.get().isFree() ? Taken.YES : Taken.LEFT_BEHIND;
    }

    private void become(String holder, String instead) {
        warehouse.update(
                "update " + warehouse.book(TABLE) + " set holder = ?, seen = ? where holder = ?",
                holder,
                now(),
                instead);
    }

    /** Shows now and then that it is there, over a connection of its own: a statement of a load may take longer than an hour. */
    private void show() {
        hide();
        ScheduledExecutorService beside = Executors.newSingleThreadScheduledExecutor(work -> {
            Thread thread = new Thread(work, "load lock");
            thread.setDaemon(true);
            return thread;
        });
        beside.scheduleAtFixedRate(this::showOnce, shows.toMillis(), shows.toMillis(), TimeUnit.MILLISECONDS);
        showing = beside;
    }

    private void hide() {
        if (showing != null) {
            showing.shutdownNow();
        }
    }

    private void showOnce() {
        try {
            warehouse.beside("update " + warehouse.book(TABLE) + " set seen = "
                    + warehouse.dialect().timestamp(now()) + " where holder = "
                    + warehouse.dialect().text(own));
        } catch (RuntimeException notNow) {
            // it is tried again; whoever takes the lock meanwhile is found out when a commit is decided
        }
    }

    /** The condition that it is still held; empty where it is not to be. */
    Optional<String> isStillHeld() {
        return isHeld
                ? Optional.of("exists (select 1 from " + warehouse.book(TABLE) + " where holder = "
                        + warehouse.dialect().text(own) + ")")
                : Optional.empty();
    }

    /** What is told where somebody else has it. */
    static WarehouseException lost() {
        return new WarehouseException(
                "Another load took the lock of this warehouse, since this one was not seen for "
                        + LEFT_BEHIND.toMinutes() + " minutes; nothing more is loaded. Load again",
                null);
    }

    private boolean isOwn() {
        return holder().filter(standing -> standing.holder().equals(own)).isPresent();
    }

    /**
     * Makes sure before a table is loaded, where some time has passed, that nobody took it for left behind.
     *
     * @throws WarehouseException where it was taken
     */
    void keep() {
        if (!isHeld || asked.plus(shows).isAfter(now())) {
            return;
        }
        asked = now();
        if (!isOwn()) {
            throw lost();
        }
    }

    void release() {
        hide();
        if (isHeld) {
            isHeld = false;
            become("", own);
        }
    }
}
