package dev.zeitkammer.load;

import java.util.Map;
import java.util.TreeMap;
import java.util.function.LongConsumer;
import java.util.stream.LongStream;

/**
 * How many random scenarios a test runs: few by default, many with {@code -Pthorough}, a quarter of them with {@code -Dquick}, as many as said with {@code -Dscenarios=N};
 * from the seed of the test on, or from {@code -Dseed=S} on. A seed always makes the same scenario.
 */
public enum Scenarios {
    DIMENSIONS(18, 8, 1, 1_000),
    FACTS(6, 5, 1, 400),
    INPUTS(5, 4, 1, 120),
    /** Facts that came first. */
    EARLY_FACTS(3, 2, 1, 400),
    /** Inputs whose loads are taken back. */
    UNDONE_INPUTS(3, 2, 1, 120),
    UNDOS(2, 1, 1, 300),
    /** Of thousands of members or facts, beyond a row group of the engine. */
    LARGE(1, 0, 0, 6);

    private static final int ON_A_CLUSTER_AT_MOST = 10;
    private static final int QUICK = 4;
    private static final int LOADS = 5;
    private static final int FEW_LOADS = 2;

    private final int embedded;
    private final int onServer;
    private final int onCluster;
    private final int thorough;

    Scenarios(int embedded, int onServer, int onCluster, int thorough) {
        this.embedded = embedded;
        this.onServer = onServer;
        this.onCluster = onCluster;
        this.thorough = thorough;
    }

    /** The number of scenarios for the engine under test. */
    public int number() {
        int few = TestWarehouses.onCluster() ? onCluster : TestWarehouses.onServer() ? onServer : embedded;
        if (Boolean.getBoolean("thorough")) {
            return TestWarehouses.onCluster() ? Math.min(thorough, ON_A_CLUSTER_AT_MOST * onCluster) : thorough;
        }
        int usual = Boolean.getBoolean("quick") ? few / QUICK : few;
        return this == LARGE ? Integer.getInteger("large", usual) : Integer.getInteger("scenarios", usual);
    }

    /** How many loads a scenario has; of thousands of rows, and on a cluster, where one takes ten seconds, few by default. */
    public static int loads(boolean isLarge) {
        return (isLarge || TestWarehouses.onCluster()) && !Boolean.getBoolean("thorough") ? FEW_LOADS : LOADS;
    }

    /** The seeds to try, from one on. */
    public LongStream seeds(long first) {
        long from = Long.getLong("seed", first);
        return LongStream.range(from, from + number());
    }

    /** Runs the scenario of every seed; those that fail are told together, each with what went wrong. */
    public static void run(LongStream seeds, LongConsumer scenario) {
        Map<Long, Throwable> failed = new TreeMap<>();
        seeds.forEach(seed -> {
            try {
                scenario.accept(seed);
            } catch (AssertionError | RuntimeException wrong) {
                synchronized (failed) {
                    failed.put(seed, wrong);
                }
            }
        });
        if (!failed.isEmpty()) {
            AssertionError all =
                    new AssertionError("try again with -Dscenarios=1 and -Dseed= each of " + failed.keySet());
            failed.values().forEach(all::addSuppressed);
            all.initCause(failed.values().iterator().next());
            throw all;
        }
    }
}
