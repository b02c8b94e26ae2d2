package dev.zeitkammer.step;

import dev.zeitkammer.align.Alignment;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.staging.Wanted;
import java.util.List;
import java.util.Optional;
import java.util.function.LongFunction;
import java.util.function.Supplier;

/** Loading one table: which staged columns it needs, and the plan for a delivery. Changes nothing by itself. */
public interface TableLoad {

    Definition definition();

    /** What is delivered to it; empty for a table that makes its own rows. */
    default Optional<Input> input() {
        return definition().from();
    }

    /** Further deliveries to the same table, after this one and in the same transaction. */
    default List<TableLoad> feeds() {
        return List.of();
    }

    /** What keeps rows right that stand already, whether or not anything is delivered; the table must stand. */
    default Optional<Plan> upkeep(Stamp stamp) {
        return Optional.empty();
    }

    /** {@code dimension} or {@code fact}, as outputs and books name it. */
    String kind();

    /** Whether the load date orders its statements, so that an older one must be refused. */
    boolean followsLoadDate();

    /** Declares the staged columns that the table needs. */
    void want(Wanted wanted);

    /**
     * Everything that loading these rows takes.
     *
     * @param rows the staged rows; empty for a table that makes its own
     * @throws dev.zeitkammer.definition.DefinitionException when the rows do not have what the definition says
     */
    Prepared prepare(Optional<StagedRows> rows, Stamp stamp);

    /**
     * A load that is ready to run.
     *
     * @param alignment what makes the table fit
     * @param guards what must hold before anything is written
     * @param seeds what must be there before the first row
     * @param planned what is done, one after the other; each reads what those before it have published
     * @param complete how to find out in one query that there is nothing to do
     */
    record Prepared(
            Alignment alignment,
            List<Step.Guard> guards,
            List<Change<TableChange>> seeds,
            Supplier<List<Plan>> planned,
            Optional<Complete> complete) {

        public Prepared {
            guards = List.copyOf(guards);
            seeds = List.copyOf(seeds);
        }

        public Prepared(
                Alignment alignment, List<Step.Guard> guards, List<Change<TableChange>> seeds, List<Plan> plans) {
            this(alignment, guards, seeds, () -> plans, Optional.empty());
        }

        /** What is done, one after the other; each reads what those before it have published. */
        public List<Plan> plans() {
            return List.copyOf(planned.get());
        }

        /** The same, with something more to know. */
        public Prepared noting(String note) {
            return new Prepared(alignment.noting(note), guards, seeds, planned, complete);
        }

        /** The same with plans. */
        public Prepared with(List<Plan> found) {
            return new Prepared(alignment, guards, seeds, () -> found, complete);
        }
    }

    /**
     * How to find out that a table stands as it is to be.
     *
     * @param query gives the number of rows where that is so, and nothing where it is not
     * @param plan what is left to do then, by that number
     */
    record Complete(Caption caption, String query, LongFunction<Plan> plan) {}
}
