package dev.zeitkammer.load;

import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.GuardException;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.past.BeforeImages;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;

/** Carries one plan out: its steps, then its changes. What is asked once is known until the plan has ended. */
final class PlanRun {

    private final Warehouse warehouse;
    private final LoadListener listener;
    private final String table;
    private final Set<String> waived;
    private final BeforeImages images;
    private final Map<Flag, Boolean> answers = new HashMap<>();
    private final Map<String, Long> written = new HashMap<>();
    private final Map<String, Map<String, Long>> counted = new LinkedHashMap<>();

    /**
     * @param images of the table that is loaded
     * @param waived the guards that are to let pass, by the names of their options
     */
    PlanRun(Warehouse warehouse, LoadListener listener, BeforeImages images, Set<String> waived) {
        this.warehouse = warehouse;
        this.listener = listener;
        this.images = images;
        this.table = images.of();
        this.waived = waived;
    }

    BeforeImages images() {
        return images;
    }

    /**
     * Computes everything that the plan will change. When the last relation is made, everything that is still open is asked in
     * one query, and what was written is compared with what stands.
     */
    void compute(Plan plan) {
        int last = lastMaking(plan.steps());
        plan.steps().subList(0, last + 1).forEach(this::run);
        List<Step> guards = plan.steps().subList(last + 1, plan.steps().size());
        List<Flag> flags = new ArrayList<>();
        guards.forEach(guard -> flags.addAll(guard.flags()));
        guards.forEach(guard -> flags.addAll(guard instanceof Step.Ask ask ? ask.asked() : List.of()));
        plan.changes().forEach(change -> change.onlyIf().ifPresent(flags::add));
        if (plan.lookingBack().isEmpty()) {
            flags.addAll(concluding(plan));
        }
        compareAsking(flags);
        guards.forEach(this::run);
    }

    /** What must be known once the tables are written. */
    private static List<Flag> concluding(Plan plan) {
        List<Flag> flags = new ArrayList<>();
        plan.books().forEach(change -> change.onlyIf().ifPresent(flags::add));
        plan.reading().onlyIf().ifPresent(flags::add);
        plan.reading().counts().forEach(counting -> counting.onlyIf().ifPresent(flags::add));
        return flags;
    }

    private void compareAsking(List<Flag> flags) {
        List<Flag> unknown = unknown(flags);
        List<Boolean> found =
                warehouse.compareWritten(unknown.stream().map(Flag::sql).toList());
        for (int index = 0; index < unknown.size(); index++) {
            answers.put(unknown.get(index), found.get(index));
        }
    }

    /** The place of the last step that makes something, after which there are guards and their questions only. */
    private static int lastMaking(List<Step> steps) {
        int last = steps.size() - 1;
        while (last >= 0 && (steps.get(last) instanceof Step.Guard || steps.get(last) instanceof Step.Ask)) {
            last--;
        }
        return last;
    }

    /** Runs steps that are no part of a plan. */
    void run(List<Step.Guard> guards) {
        guards.forEach(this::run);
    }

    /** What a plan has counted, by role and word. */
    Map<String, Map<String, Long>> counted() {
        return counted;
    }

    /** Publishes the changes of a plan. */
    void publish(Plan plan) {
        if (plan.lookingBack().isEmpty()) {
            publish(plan.changes(), plan.books());
            return;
        }
        publish(plan.changes(), List.of());
        plan.lookingBack().forEach(this::run);
        compareAsking(concluding(plan));
        publish(List.of(), plan.books());
    }

    void publish(List<Change<TableChange>> changes, List<Change<BookChange>> books) {
        List<Flag> flags = new ArrayList<>();
        changes.forEach(change -> change.onlyIf().ifPresent(flags::add));
        books.forEach(change -> change.onlyIf().ifPresent(flags::add));
        ask(flags);
        List<TableChange> due = due(changes);
        List<BookChange> noted = due(books);
        for (TableChange change : due) {
            named(change.caption(), () -> {
                images.before(change);
                warehouse.publish(List.of(change), List.of());
            });
        }
        for (BookChange change : noted) {
            named(change.caption(), () -> {
                images.before(change);
                warehouse.publish(List.of(), List.of(change));
            });
        }
    }

    /** Those of some changes that are to be made. */
    <T> List<T> due(List<Change<T>> changes) {
        return changes.stream()
                .filter(change -> isSo(change.onlyIf()))
                .map(Change::what)
                .toList();
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
        List<Flag> unknown = unknown(flags);
        if (unknown.isEmpty()) {
            return;
        }
        List<Long> found = warehouse.numbers(Step.Ask.numbers(unknown));
        for (int index = 0; index < unknown.size(); index++) {
            answers.put(unknown.get(index), found.get(index) != 0);
        }
    }

    private List<Flag> unknown(List<Flag> flags) {
        flags.forEach(flag -> told(flag).ifPresent(answer -> answers.put(flag, answer)));
        return flags.stream()
                .filter(flag -> !answers.containsKey(flag))
                .distinct()
                .toList();
    }

    /** What follows from the number of rows that the engine said it wrote; it is compared with what stands before anything is changed. */
    private Optional<Boolean> told(Flag flag) {
        if (!flag.parts().isEmpty()) {
            return ofParts(flag.parts().stream().map(this::told).toList());
        }
        if (answers.containsKey(flag)) {
            return Optional.of(answers.get(flag));
        }
        Optional<Long> rows = flag.of().map(Relation::name).map(written::get);
        if (rows.isEmpty()) {
            return Optional.empty();
        }
        return rows.get() == 0 ? Optional.of(false) : flag.isAny() ? Optional.of(true) : Optional.empty();
    }

    /** One that is so is enough; none is only known where every part is. */
    private static Optional<Boolean> ofParts(List<Optional<Boolean>> parts) {
        if (parts.contains(Optional.of(true))) {
            return Optional.of(true);
        }
        return parts.contains(Optional.<Boolean>empty()) ? Optional.empty() : Optional.of(false);
    }

    private void kept(Relation relation, OptionalLong rows) {
        written.remove(relation.name());
        rows.ifPresent(number -> written.put(relation.name(), number));
    }

    private void appended(Relation relation, OptionalLong rows) {
        Long before = written.remove(relation.name());
        if (before != null && rows.isPresent()) {
            written.put(relation.name(), before + rows.getAsLong());
        }
        answers.keySet().removeIf(flag -> flag.of().filter(relation::equals).isPresent());
    }

    private void run(Step step) {
        if (!isDue(step)) {
            skip(step);
            return;
        }
        if (step instanceof Step.Guard guard
                && guard.waiver().filter(waived::contains).isPresent()) {
            return;
        }
        named(step.caption(), () -> execute(step));
    }

    /** Parts are asked for one by one, since those that have nothing to do may name what was not made. */
    private boolean isDue(Step step) {
        return step instanceof Step.Gather gather
                ? gather.flags().stream().anyMatch(flag -> isSo(Optional.of(flag)))
                : isSo(step.onlyIf());
    }

    /** What is not asked is not so, and what is not made is empty; nothing reads it. */
    private void skip(Step step) {
        if (step instanceof Step.Ask ask) {
            ask.asked().forEach(flag -> answers.put(flag, false));
        } else if (step instanceof Step.Keep keep) {
            written.putIfAbsent(keep.relation().name(), 0L);
        } else if (step instanceof Step.Gather gather) {
            written.putIfAbsent(gather.relation().name(), 0L);
        }
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
            kept(keep.relation(), warehouse.keep(keep.relation().name(), keep.query()));
            keep.relation()
                    .probedBy()
                    .ifPresent(column -> warehouse.index(keep.relation().name(), column));
        } else if (step instanceof Step.Gather gather) {
            String query = gather.query(flag -> isSo(Optional.of(flag)));
            kept(gather.relation(), warehouse.keep(gather.relation().name(), query));
        } else if (step instanceof Step.Attempt attempt) {
            kept(attempt.relation(), warehouse.keep(attempt.relation().name(), attempt.query(), attempt.otherwise()));
        } else if (step instanceof Step.Name named) {
            written.remove(named.relation().name());
            warehouse.name(named.relation().name(), named.query());
        } else if (step instanceof Step.Append append) {
            appended(append.relation(), warehouse.append(append.relation().name(), append.query()));
        } else if (step instanceof Step.Ask ask) {
            ask(ask.asked());
        } else if (step instanceof Step.Count count) {
            count(count);
        } else if (step instanceof Step.Guard guard) {
            warehouse.query(guard.query(), guard.words()::apply).stream()
                    .findFirst()
                    .ifPresent(words -> {
                        throw new GuardException(words);
                    });
        }
    }

    private void count(Step.Count count) {
        counted.clear();
        count.counted().forEach(each -> rowsOf(each.role()).put(each.word(), 0L));
        warehouse.query(
                count.query(),
                row -> rowsOf(String.valueOf(row.text(1)))
                        .merge(String.valueOf(row.text(2)), row.number(3), Long::sum));
        count.counted()
                .forEach(each -> answers.put(each.any(), rowsOf(each.role()).get(each.word()) > 0));
    }

    private Map<String, Long> rowsOf(String role) {
        return counted.computeIfAbsent(role, each -> new LinkedHashMap<>());
    }
}
