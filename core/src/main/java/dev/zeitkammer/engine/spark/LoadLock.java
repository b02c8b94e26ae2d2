package dev.zeitkammer.engine.spark;

import dev.zeitkammer.engine.WarehouseException;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;

/**
 * The lock of a warehouse's loads: a row of a table, changed in a commit that only one of two can make. Whoever has it shows now
 * and then that it is still there; what was not seen for long, or whose process on this machine has ended, left it behind.
 */
final class LoadLock {

    /** How long nobody need be seen before the lock counts as left behind. */
    static final Duration LEFT_BEHIND = Duration.ofHours(1);

    private static final Duration SHOWS = Duration.ofMinutes(5);
    static final String TABLE = "load_lock";

    private final SparkWarehouse warehouse;
    private final String own;
    private LocalDateTime shown = LocalDateTime.MIN;
    private boolean isHeld;

    LoadLock(SparkWarehouse warehouse) {
        this.warehouse = warehouse;
        this.own = String.join(
                " ",
                host(),
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
            if (words[0].equals(host())) {
                return ProcessHandle.of(Long.parseLong(words[1]))
                        .filter(process -> started(process).equals(words[2]))
                        .isEmpty();
            }
            return seen.plus(LEFT_BEHIND).isBefore(now());
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
        return standing.get().isFree() ? Taken.YES : Taken.LEFT_BEHIND;
    }

    private void become(String holder, String instead) {
        warehouse.update(
                "update " + warehouse.book(TABLE) + " set holder = ?, seen = ? where holder = ?",
                holder,
                now(),
                instead);
        shown = now();
    }

    private boolean isOwn() {
        return holder().filter(standing -> standing.holder().equals(own)).isPresent();
    }

    /**
     * Makes sure before a table is loaded, where some time has passed, that nobody took it for left behind, and shows that it is not.
     *
     * @throws WarehouseException where it was taken
     */
    void keep() {
        if (!isHeld || shown.plus(SHOWS).isAfter(now())) {
            return;
        }
        if (!isOwn()) {
            isHeld = false;
            throw new WarehouseException(
                    "Another load took the lock of this warehouse, since this one was not seen for "
                            + LEFT_BEHIND.toMinutes() + " minutes; nothing more is loaded. Load again",
                    null);
        }
        become(own, own);
    }

    void release() {
        if (isHeld) {
            isHeld = false;
            become("", own);
        }
    }
}
