package dev.zeitkammer.step;

import dev.zeitkammer.engine.BookChange;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.TableChange;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * Everything that loading one delivery into one table will do, as a value, and how to read off what it did.
 *
 * @param relations the scratch relations of the steps, in the order in which they are made
 * @param steps what is computed; writes nothing but scratch relations
 * @param changes what is published, in order
 * @param lookingBack what is read off the tables as they were written, before the books note anything: scratch relations, and
 *     guards of what must hold
 * @param books what the books note beside it
 * @param reading how to read off what happens
 */
public record Plan(
        List<Relation> relations,
        List<Step> steps,
        List<Change<TableChange>> changes,
        List<Step> lookingBack,
        List<Change<BookChange>> books,
        Reading reading) {

    /**
     * How to read off, once the steps have run, what a load does.
     *
     * @param differences the values that change
     * @param counts what is counted: of the table
     * @param written a query of (inserted, updated): the rows written to the table
     * @param setAside a query of (staged row, reason, column, text, whether it waits) in order of staged rows
     * @param highestKey a query of the highest surrogate key given, for tables that number their rows
     * @param lookups what the lookups found
     * @param onlyIf what must be so, else it is read off otherwise
     * @param otherwise how, where it is not so; nothing: there is nothing to count
     */
    public record Reading(
            Differences differences,
            List<Counting> counts,
            String written,
            Optional<String> setAside,
            Optional<String> highestKey,
            Optional<LookupTally> lookups,
            Optional<Flag> onlyIf,
            Optional<Reading> otherwise) {

        /** Of a table to which nothing is delivered. */
        static final Reading NOTHING = new Reading(
                Differences.NONE,
                List.of(),
                "select 0, 0",
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());

        public Reading {
            counts = List.copyOf(counts);
        }
    }

    /** The plan of a table to which nothing is delivered. */
    public static final Plan NOTHING = new Plan(List.of(), List.of(), List.of(), Reading.NOTHING);

    public Plan(List<Step> steps, List<Change<TableChange>> changes, List<Change<BookChange>> books, Reading reading) {
        this(made(steps), steps, changes, List.of(), books, reading);
    }

    /** A plan that follows from another one, whose changes it reads; there is nothing to count. */
    public static Plan after(List<Step> steps, List<Change<TableChange>> changes) {
        return new Plan(steps, changes, List.of(), Reading.NOTHING);
    }

    /** The same with changes that are made before its own. */
    public Plan beginning(List<Change<TableChange>> first) {
        List<Change<TableChange>> all = new ArrayList<>(first);
        all.addAll(changes);
        return new Plan(relations, steps, all, lookingBack, books, reading);
    }

    /** The same, which looks back at what it has written. */
    public Plan lookingBack(List<Step> back) {
        List<Step> all = new ArrayList<>(steps);
        all.addAll(back);
        return new Plan(made(all), steps, changes, back, books, reading);
    }

    /** The same with counts. */
    public Plan counting(List<Counting> counts) {
        Reading same = reading;
        return new Plan(
                relations,
                steps,
                changes,
                lookingBack,
                books,
                new Reading(
                        same.differences(),
                        counts,
                        same.written(),
                        same.setAside(),
                        same.highestKey(),
                        same.lookups(),
                        same.onlyIf(),
                        same.otherwise()));
    }

    public Plan {
        relations = List.copyOf(relations);
        steps = List.copyOf(steps);
        changes = List.copyOf(changes);
        lookingBack = List.copyOf(lookingBack);
        books = List.copyOf(books);
    }

    private static List<Relation> made(List<Step> steps) {
        return steps.stream()
                .flatMap(step -> relation(step).stream())
                .distinct()
                .toList();
    }

    private static Optional<Relation> relation(Step step) {
        if (step instanceof Step.Keep keep) {
            return Optional.of(keep.relation());
        }
        if (step instanceof Step.Gather gather) {
            return Optional.of(gather.relation());
        }
        if (step instanceof Step.Attempt attempt) {
            return Optional.of(attempt.relation());
        }
        return step instanceof Step.Name named ? Optional.of(named.relation()) : Optional.empty();
    }
}
