package dev.zeitkammer.load;

import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Carries one plan out: its steps, then its changes. What is asked once is known until the plan has ended. */
final class PlanRun {

    private final Warehouse warehouse;
    private final LoadListener listener;
    private final String table;
    private final Set<String> waived;
    private final Map<Flag, Boolean> answers = new HashMap<>();

    /** @param waived the guards that are to let pass, by the names of their options */
    PlanRun(Warehouse warehouse, LoadListener listener, String table, Set<String> waived) {
        this.warehouse = warehouse;
        this.listener = listener;
        this.table = table;
        this.waived = waived;
    }

    /** Computes everything that the plan will change. */
    void compute(Plan plan) {
        plan.steps().forEach(this::run);
        warehouse.compareWritten();
    }

    /** Runs steps that are no part of a plan. */
    void run(List<Step.Guard> guards) {
        guards.forEach(this::run);
    }

    /** Publishes the changes of a plan. */
    void publish(Plan plan) {
        publish(plan.changes(), plan.books());
    }

    void publish(List<Change<TableChange>> changes, List<Change<BookChange>> books) {
        List<Flag> flags = new ArrayList<>();
        changes.forEach(change -> change.onlyIf().ifPresent(flags::add));
        books.forEach(change -> change.onlyIf().ifPresent(flags::add));
        ask(flags);
        List<TableChange> due = due(changes);
        List<BookChange> noted = due(books);
        due.forEach(change -> publish(change.caption(), List.of(change), List.of()));
        noted.forEach(change -> publish(change.caption(), List.of(), List.of(change)));
    }

    private <T> List<T> due(List<Change<T>> changes) {
        return changes.stream()
                .filter(change -> isSo(change.onlyIf()))
                .map(Change::what)
                .toList();
    }

    private void publish(Caption caption, List<TableChange> changes, List<BookChange> books) {
        named(caption, () -> warehouse.publish(changes, books));
    }

    /** Whether there is nothing that something depends on, or it is so. */
    boolean isSo(Optional<Flag> flag) {
        if (flag.isEmpty()) {
            return true;
        }
        ask(List.of(flag.get()));
        return Boolean.TRUE.equals(answers.get(flag.get()));
    }

    private void ask(List<Flag> flags) {
        List<Flag> unknown = flags.stream()
                .filter(flag -> !answers.containsKey(flag))
                .distinct()
                .toList();
        if (unknown.isEmpty()) {
            return;
        }
        warehouse.query(Step.Ask.query(unknown), row -> {
            for (int index = 0; index < unknown.size(); index++) {
                answers.put(unknown.get(index), row.number(index + 1) != 0);
            }
            return true;
        });
    }

    private void run(Step step) {
        if (!isSo(step.onlyIf())) {
            if (step instanceof Step.Ask ask) {
                ask.flags().forEach(flag -> answers.put(flag, false));
            }
            return;
        }
        if (step instanceof Step.Guard guard
                && guard.waiver().filter(waived::contains).isPresent()) {
            return;
        }
        named(step.caption(), () -> execute(step));
    }

    private void named(Caption caption, Runnable work) {
        listener.step(table, caption);
        try {
            work.run();
        } catch (WarehouseException failed) {
            throw new WarehouseException(
                    "Cannot load " + table + ": step \"" + caption.name() + "\": " + failed.getMessage(), failed);
        }
    }

    private void execute(Step step) {
        if (step instanceof Step.Keep keep) {
            warehouse.keep(keep.relation().name(), keep.query());
        } else if (step instanceof Step.Attempt attempt) {
            warehouse.keep(attempt.relation().name(), attempt.query(), attempt.otherwise());
        } else if (step instanceof Step.Name named) {
            warehouse.name(named.relation().name(), named.query());
        } else if (step instanceof Step.Append append) {
            warehouse.append(append.relation().name(), append.query());
        } else if (step instanceof Step.Ask ask) {
            ask(ask.flags());
        } else if (step instanceof Step.Guard guard) {
            warehouse.query(guard.query(), guard.words()::apply).stream()
                    .findFirst()
                    .ifPresent(words -> {
                        throw new GuardException(words);
                    });
        }
    }
}
