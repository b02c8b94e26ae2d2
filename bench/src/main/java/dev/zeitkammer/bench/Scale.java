package dev.zeitkammer.bench;

/**
 * How much of everything.
 *
 * @param members guests in the dimension
 * @param facts nights
 * @param wide members of the wide dimension
 * @param onServer guests in the dimension on a server
 * @param onCluster guests in the dimension on a cluster, and nights there
 * @param extract how many of these guests make a small extract: one of so many
 */
record Scale(long members, long facts, long wide, long onServer, long onCluster, long extract) {

    static final Scale FULL = new Scale(5_000_000, 20_000_000, 100_000, 1_000_000, 5_000_000, 25);
    static final Scale SMALL = new Scale(200_000, 1_000_000, 5_000, 50_000, 200_000, 25);
    static final Scale TINY = new Scale(2_000, 5_000, 50, 500, 2_000, 25);

    /** Guests that the nights look up. */
    long guests() {
        return Math.max(1, facts / 20);
    }

    Scale withMembers(long other) {
        return new Scale(other, facts, wide, onServer, onCluster, extract);
    }

    Scale withFacts(long other) {
        return new Scale(members, other, wide, onServer, onCluster, extract);
    }

    Scale withOnCluster(long other) {
        return new Scale(members, facts, wide, onServer, other, extract);
    }

    Scale withExtract(long other) {
        return new Scale(members, facts, wide, onServer, onCluster, other);
    }
}
