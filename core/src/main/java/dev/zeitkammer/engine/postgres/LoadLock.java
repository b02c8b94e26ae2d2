package dev.zeitkammer.engine.postgres;

import dev.zeitkammer.engine.WarehouseException;

/** The lock of the loads of a warehouse: the server holds it for a connection, and workers of that connection work under it. */
final class LoadLock {

    private final PostgresWarehouse warehouse;
    private final String name;
    private final String working;
    private boolean isHeld;
    private long holder;

    LoadLock(PostgresWarehouse warehouse, String name) {
        this.warehouse = warehouse;
        this.name = name;
        this.working = name + " working";
    }

    /** This connection works for another one, as long as that one holds the lock. */
    void worksFor(LoadLock other) {
        if (other.isHeld) {
            holder = other.warehouse.number("select pg_backend_pid()");
        }
    }

    /**
     * A worker keeps another load from beginning while its own transaction runs, and then looks whether the connection that it
     * works for still has the lock: nobody can take it in between.
     */
    void holds() {
        if (holder == 0) {
            return;
        }
        boolean mayWork = warehouse
                .query("select pg_try_advisory_xact_lock_shared(hashtextextended(?, 0))", row -> row.flag(1), working)
                .get(0);
        boolean holderHasIt = warehouse.number(
                        "select count(*) from pg_locks where locktype = 'advisory' and granted and pid = ?"
                                + " and ((cast(classid as bigint) << 32) | cast(objid as bigint)) = hashtextextended(?, 0)",
                        holder,
                        name)
                > 0;
        if (!mayWork || !holderHasIt) {
            throw new WarehouseException(
                    "The load lost its lock, since the connection that held it ended (see idle_session_timeout of the"
                            + " server); nothing more is loaded. Load again",
                    null);
        }
    }

    /** @return whether nobody else has it */
    boolean take() {
        isHeld = warehouse
                .query("select pg_try_advisory_lock(hashtextextended(?, 0))", row -> row.flag(1), name)
                .get(0);
        if (isHeld && !nobodyWorks()) {
            unlock();
            isHeld = false;
        }
        return isHeld;
    }

    /** Whether no worker of a load that lost its lock is in the middle of a table. */
    private boolean nobodyWorks() {
        boolean nobody = warehouse
                .query("select pg_try_advisory_lock(hashtextextended(?, 0))", row -> row.flag(1), working)
                .get(0);
        if (nobody) {
            warehouse.query("select pg_advisory_unlock(hashtextextended(?, 0))", row -> row.flag(1), working);
        }
        return nobody;
    }

    void release() {
        if (isHeld) {
            unlock();
        }
    }

    /** The server gives a lock back some time after the connection has ended; whoever comes next need not wait for that. */
    private void unlock() {
        try {
            warehouse.query("select pg_advisory_unlock(hashtextextended(?, 0))", row -> row.flag(1), name);
        } catch (WarehouseException lost) {
            // the server gives it back by itself
        }
    }
}
