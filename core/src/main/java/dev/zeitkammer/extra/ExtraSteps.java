package dev.zeitkammer.extra;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.books.ExtraRun;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.ExtraStep.On;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Secrets;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.extra.CommandRun.Ended;
import dev.zeitkammer.step.Stamp;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The extra steps of one load: runs them at their places, and keeps how each went. */
public final class ExtraSteps {

    private final Project project;
    private final Stamp stamp;
    private final boolean isRehearsal;
    private final Consumer<String> said;
    private final List<ExtraRun> runs = Collections.synchronizedList(new ArrayList<>());
    private volatile String stopped = "";

    /** @param said hears what went wrong and stops nothing */
    public ExtraSteps(Project project, Stamp stamp, boolean isRehearsal, Consumer<String> said) {
        this.project = project;
        this.stamp = stamp;
        this.isRehearsal = isRehearsal;
        this.said = said;
    }

    /** How those went that had their turn. */
    public List<ExtraRun> runs() {
        return List.copyOf(runs);
    }

    /** The step that stopped the load; empty where none did. */
    public Optional<String> stopped() {
        return stopped.isEmpty() ? Optional.empty() : Optional.of(stopped);
    }

    private List<ExtraStep> at(boolean isBefore, String anchor, boolean inTransaction) {
        return project.extra().stream()
                .filter(step -> step.isBefore() == isBefore && step.inTransaction() == inTransaction)
                .filter(step -> step.on() == On.DONE && step.anchor().equals(anchor))
                .toList();
    }

    /**
     * Runs the steps after something that did not end well: they hear of it as JSON on their standard input. Whatever becomes of
     * them, the load is what it was.
     *
     * @param anchor the load, or the name of a table's definition
     * @param entries what ended so: the table, or the load's tables that did
     */
    public void ended(String anchor, LoadStatus status, List<TableEntry> entries, Warehouse warehouse) {
        On on = status == LoadStatus.STOPPED ? On.STOPPED : On.FAILURE;
        for (ExtraStep step : project.extra()) {
            if (step.on() == on && step.anchor().equals(anchor)) {
                ExtraRun run = isRehearsal
                        ? wouldRun(step)
                        : run(step, warehouse, new Ending(stamp, status, entries, stopped()));
                runs.add(run);
                if (!run.isDone() && !isRehearsal) {
                    said.accept("the extra step \"" + step.name() + "\" " + run.status() + lastLine(run.output()));
                }
                noted(run, warehouse);
            }
        }
    }

    /** Where not even that can be entered any more, the load's own failure is what counts. */
    private void noted(ExtraRun run, Warehouse warehouse) {
        try {
            if (!isRehearsal) {
                new Books(warehouse).enterExtra(stamp.load(), run);
            }
        } catch (WarehouseException unreachable) {
            said.accept("the extra step \"" + run.name() + "\" could not be entered: " + unreachable.getMessage());
        }
    }

    /** Runs the steps before a place, until one stops the load. */
    public void before(String anchor, Warehouse warehouse) {
        run(at(true, anchor, false), warehouse);
    }

    /** Runs the steps after a place, until one stops the load. */
    public void after(String anchor, Warehouse warehouse) {
        run(at(false, anchor, false), warehouse);
    }

    private void run(List<ExtraStep> steps, Warehouse warehouse) {
        for (ExtraStep step : steps) {
            if (stopped.isEmpty()) {
                ExtraRun run = isRehearsal ? wouldRun(step) : run(step, warehouse);
                enter(run, warehouse);
                if (!run.isDone()) {
                    failed(step, run);
                }
            }
        }
    }

    private static ExtraRun wouldRun(ExtraStep step) {
        return new ExtraRun(step.name().text(), step.where(), ExtraRun.WOULD_RUN, 0, "");
    }

    /** Takes in something that runs at the end of a load and is no step of the user's; where it fails, the load is not done. */
    public void add(ExtraRun run, Warehouse warehouse) {
        enter(run, warehouse);
        if (!run.isDone()) {
            stopped = run.name() + " " + run.status() + ": "
                    + run.output().lines().findFirst().orElse("");
        }
    }

    private void enter(ExtraRun run, Warehouse warehouse) {
        runs.add(run);
        if (!isRehearsal) {
            new Books(warehouse).enterExtra(stamp.load(), run);
        }
    }

    private void failed(ExtraStep step, ExtraRun run) {
        String how = "the extra step \"" + step.name() + "\" " + run.status() + lastLine(run.output());
        if (step.stops()) {
            stopped = how;
        } else {
            said.accept(how + "; the load goes on");
        }
    }

    private static String lastLine(String output) {
        return output.lines()
                .filter(line -> !line.isBlank())
                .reduce((first, second) -> second)
                .map(line -> ": " + line)
                .orElse("");
    }

    private ExtraRun run(ExtraStep step, Warehouse warehouse) {
        return run(step, warehouse, null);
    }

    /** @param ending what the command hears of on its standard input; null: nothing */
    private ExtraRun run(ExtraStep step, Warehouse warehouse, @Nullable Ending ending) {
        long began = System.nanoTime();
        if (step.sql().isPresent()) {
            try {
                warehouse.inTransaction(() -> {
                    warehouse.execute(filled(step.sql().get().text()));
                    return true;
                });
                return told(step, ExtraRun.DONE, began, "");
            } catch (WarehouseException refused) {
                return told(step, ExtraRun.FAILED, began, String.valueOf(refused.getMessage()));
            }
        }
        Ended ended = new CommandRun(
                        step.command().stream().map(this::filled).toList(), project.folder(), environment(ending))
                .run(step.limit(), ending == null ? "" : ending.json());
        String output = Secrets.cleaned(ended.output());
        if (ended.isOver()) {
            return told(
                    step,
                    ExtraRun.STOPPED,
                    began,
                    output + "\nstopped after " + step.limit().toSeconds() + " s (time-limit)");
        }
        return ended.status() == 0
                ? told(step, ExtraRun.DONE, began, output)
                : told(
                        step,
                        ExtraRun.FAILED,
                        began,
                        (output.isEmpty() ? "" : output + "\n")
                                + (ended.status() < 0 ? "it could not be run" : "exit status " + ended.status()));
    }

    private static ExtraRun told(ExtraStep step, String status, long began, String output) {
        double seconds = (System.nanoTime() - began) / 1_000_000 / 1000.0;
        return new ExtraRun(Secrets.cleaned(step.name().text()), step.where(), status, seconds, output);
    }

    private String filled(String text) {
        return text.replace("{date}", stamp.date().toString()).replace("{load}", String.valueOf(stamp.load()));
    }

    private Map<String, String> environment(@Nullable Ending ending) {
        Map<String, String> environment = new HashMap<>(Map.of(
                "ZEITKAMMER_DATE", stamp.date().toString(),
                "ZEITKAMMER_LOAD", String.valueOf(stamp.load()),
                "ZEITKAMMER_PROJECT", project.folder().toString()));
        if (ending != null) {
            environment.putAll(ending.environment());
        }
        return environment;
    }

    /** Enters the statements that were done within a table's transaction, once that has failed. */
    public void takenBack(String anchor, Warehouse warehouse) {
        List<ExtraStep> inside = Stream.of(true, false)
                .flatMap(isBefore -> at(isBefore, anchor, true).stream())
                .toList();
        for (ExtraStep step : inside) {
            for (int index = 0; index < runs.size(); index++) {
                ExtraRun run = runs.get(index);
                if (run.name().equals(step.name().text()) && run.status().equals(ExtraRun.DONE)) {
                    runs.set(index, run.takenBack());
                    new Books(warehouse).enterExtra(stamp.load(), runs.get(index));
                }
            }
        }
    }

    /** Whether a statement of the user's own runs within the transaction of a table. */
    public boolean isInside(String anchor) {
        return Stream.of(true, false)
                .anyMatch(isBefore -> !at(isBefore, anchor, true).isEmpty());
    }

    /**
     * Runs the statements that are part of a table's transaction.
     *
     * @throws GuardException where one fails that stops the load, so that the transaction is taken back
     */
    public void inside(boolean isBefore, String anchor, Warehouse warehouse) {
        for (ExtraStep step : at(isBefore, anchor, true)) {
            if (isRehearsal) {
                runs.add(wouldRun(step));
                continue;
            }
            long began = System.nanoTime();
            try {
                warehouse.execute(filled(step.sql().orElseThrow().text()));
            } catch (WarehouseException refused) {
                runs.add(told(step, ExtraRun.FAILED, began, String.valueOf(refused.getMessage())));
                throw new ZeitkammerException(
                        "The extra step \"" + step.name() + "\" failed in the transaction of " + anchor
                                + ", which is taken back: " + refused.getMessage(),
                        refused);
            }
            ExtraRun run = told(step, ExtraRun.DONE, began, "");
            enter(run, warehouse);
        }
    }
}
