package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Output;
import dev.zeitkammer.engine.Warehouse;
import java.time.Duration;
import java.util.OptionalDouble;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import me.tongfei.progressbar.DelegatingProgressBarConsumer;
import me.tongfei.progressbar.ProgressBar;
import me.tongfei.progressbar.ProgressBarBuilder;
import me.tongfei.progressbar.ProgressState;
import org.jspecify.annotations.Nullable;

/** A line on the terminal for a table whose load takes longer than a moment: the step, its share, and the time left for it. */
final class ProgressLine {

    private static final long PATIENCE = TimeUnit.SECONDS.toNanos(2);
    private static final int INTERVAL = 200;
    private static final int WIDTH = 100;
    private static final int BAR = 24;
    private static final double SOON = 0.03;

    private final Warehouse warehouse;
    private final boolean onTerminal;
    private @Nullable ScheduledExecutorService clock;
    private @Nullable ProgressBar bar;
    private String table = "";
    private String step = "";
    private long tableBegan;
    private long stepBegan;
    private double share;

    ProgressLine(Warehouse warehouse, boolean onTerminal) {
        this.warehouse = warehouse;
        this.onTerminal = onTerminal;
    }

    /** A step of a table begins. */
    synchronized void step(String ofTable, String name) {
        if (!onTerminal) {
            return;
        }
        if (!ofTable.equals(table)) {
            end();
            table = ofTable;
            tableBegan = System.nanoTime();
        }
        step = name;
        stepBegan = System.nanoTime();
        share = 0;
        if (clock == null) {
            clock = Executors.newSingleThreadScheduledExecutor(work -> {
                Thread thread = new Thread(work, "progress");
                thread.setDaemon(true);
                return thread;
            });
            clock.scheduleAtFixedRate(this::tick, INTERVAL, INTERVAL, TimeUnit.MILLISECONDS);
        }
    }

    /** The table ended; the line goes away. */
    synchronized void end() {
        if (bar != null) {
            bar.close();
            bar = null;
            System.err.print("\r" + " ".repeat(WIDTH) + "\r");
            System.err.flush();
        }
        table = "";
    }

    private synchronized void tick() {
        if (table.isEmpty() || System.nanoTime() - tableBegan < PATIENCE) {
            return;
        }
        OptionalDouble now = warehouse.progress();
        share = Math.max(share, now.orElse(0));
        if (bar == null) {
            bar = new ProgressBarBuilder()
                    .setInitialMax(100)
                    .setUpdateIntervalMillis(INTERVAL)
                    .continuousUpdate()
                    .setRenderer(this::rendered)
                    .setConsumer(new DelegatingProgressBarConsumer(line -> System.err.print("\r" + line), WIDTH))
                    .build();
        }
        bar.stepTo(Math.round(share * 100));
    }

    private String rendered(ProgressState state, int width) {
        String line = Output.safe(table + ": " + step) + "  " + (share > 0 ? bar() : passed());
        return line.length() > width ? line.substring(0, width) : line + " ".repeat(width - line.length());
    }

    private String bar() {
        int full = (int) Math.round(share * BAR);
        return "━".repeat(full) + "╌".repeat(BAR - full) + "  " + Math.round(share * 100) + " %" + left();
    }

    /** Where the engine does not tell how far it is. */
    private String passed() {
        Duration passed = Duration.ofNanos(System.nanoTime() - stepBegan);
        return "for %d:%02d".formatted(passed.toMinutes(), passed.toSecondsPart());
    }

    private String left() {
        if (share < SOON) {
            return "";
        }
        double passed = System.nanoTime() - stepBegan;
        Duration left = Duration.ofNanos((long) (passed * (1 - share) / share));
        return ", %d:%02d left".formatted(left.toMinutes(), left.toSecondsPart());
    }
}
