package dev.zeitkammer.step;

import dev.zeitkammer.engine.Caption;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.Stager.Attempted;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** One statement of a load that writes nothing but scratch relations. */
public sealed interface Step {

    Caption caption();

    /** The statement, for the reader of {@code explain}. */
    String sql(Dialect dialect);

    /** What must be so, else the step has nothing to do and is not run; it was asked before. */
    default Optional<Flag> onlyIf() {
        return Optional.empty();
    }

    /** What is to be asked before it, so that it is known what of it has anything to do. */
    default List<Flag> flags() {
        return onlyIf().stream().toList();
    }

    /** What a step is called, and what it is for. */
    static Caption caption(String name, String purpose) {
        return new Caption(name, purpose);
    }

    /** Keeps the rows of a query. */
    record Keep(Caption caption, Relation relation, String query, Optional<Flag> onlyIf) implements Step {

        public Keep(Caption caption, Relation relation, String query) {
            this(caption, relation, query, Optional.empty());
        }

        @Override
        public String sql(Dialect dialect) {
            return dialect.keep(relation.name(), query);
        }
    }

    /**
     * Keeps the rows of several queries together, and runs only those of which something is so; where nothing is so of any of
     * them, it is not made.
     */
    record Gather(Caption caption, Relation relation, List<Part> parts) implements Step {

        /**
         * One of the queries.
         *
         * @param what whose rows it gives, for the reader of {@code explain}
         */
        public record Part(String what, String query, Flag onlyIf) {

            private String explained() {
                return "-- " + what + ", only if " + onlyIf.sql().replaceAll("\\s+", " ") + "\n" + query;
            }
        }

        public Gather {
            parts = List.copyOf(parts);
        }

        @Override
        public Optional<Flag> onlyIf() {
            return flags().stream().reduce(Flag::or);
        }

        @Override
        public List<Flag> flags() {
            return parts.stream().map(Part::onlyIf).toList();
        }

        /** Those that are run, as one query. */
        public String query(Predicate<Flag> isSo) {
            return together(
                    parts.stream().filter(part -> isSo.test(part.onlyIf())).map(Part::query));
        }

        @Override
        public String sql(Dialect dialect) {
            return dialect.keep(relation.name(), together(parts.stream().map(Part::explained)));
        }

        private static String together(Stream<String> queries) {
            return queries.collect(Collectors.joining("\nunion all\n"));
        }
    }

    /** Keeps the rows of a query; where it fails, those of another one. */
    record Attempt(Caption caption, Relation relation, String query, Attempted otherwise) implements Step {

        @Override
        public String sql(Dialect dialect) {
            return dialect.keep(relation.name(), query);
        }
    }

    /** Gives a query a name; it is computed wherever the name stands. */
    record Name(Caption caption, Relation relation, String query, Optional<Flag> onlyIf) implements Step {

        public Name(Caption caption, Relation relation, String query) {
            this(caption, relation, query, Optional.empty());
        }

        @Override
        public String sql(Dialect dialect) {
            return dialect.name(relation.name(), query);
        }
    }

    /** Adds the rows of a query to a relation that is kept; a list of columns in parentheses may stand before the query. */
    record Append(Caption caption, Relation relation, String query, Optional<Flag> onlyIf) implements Step {

        public Append(Caption caption, Relation relation, String query) {
            this(caption, relation, query, Optional.empty());
        }

        @Override
        public String sql(Dialect dialect) {
            return Dialect.append(relation.name(), query);
        }
    }

    /** Asks what is so, all in one query; what is not so, steps need not be run for. Where it is not run, nothing is so. */
    record Ask(Caption caption, List<Flag> asked, Optional<Flag> onlyIf) implements Step {

        public Ask {
            asked = asked.stream().distinct().toList();
        }

        @Override
        public String sql(Dialect dialect) {
            return query(asked);
        }

        /** A query of a number for each flag: 1 where it is so. */
        public static String query(List<Flag> flags) {
            return SqlText.numbers(numbers(flags));
        }

        /** An expression for each flag: 1 where it is so. */
        public static List<String> numbers(List<Flag> flags) {
            return flags.stream().map(flag -> SqlText.flag(flag.sql())).toList();
        }
    }

    /**
     * Counts rows by a role and a word in one query, of which the load remembers what it counted: it tells what is so, and is noted
     * at the end.
     *
     * @param query gives (role, word, rows); rows of one role and word are added up
     * @param counted every role and word there can be
     */
    record Count(Caption caption, String query, List<Counted> counted) implements Step {

        /**
         * A role and a word.
         *
         * @param any whether there are rows of them
         */
        public record Counted(String role, String word, Flag any) {}

        public Count {
            counted = List.copyOf(counted);
        }

        @Override
        public String sql(Dialect dialect) {
            return query;
        }
    }

    /**
     * A query that must return nothing; its first row, put in words, stops the load.
     *
     * @param words what a row says
     * @param onlyIf where it is so, the query gives rows
     * @param waiver the option of a load that lets it pass, where there is one
     */
    record Guard(
            Caption caption, String query, Function<Row, String> words, Optional<Flag> onlyIf, Optional<String> waiver)
            implements Step {

        public Guard {
            Objects.requireNonNull(words);
        }

        public Guard(Caption caption, String query, Function<Row, String> words) {
            this(caption, query, words, Optional.empty(), Optional.empty());
        }

        /** The same, asked beside other questions whether it gives rows at all. */
        public Guard asked() {
            return new Guard(caption, query, words, Optional.of(Flag.exists(query)), waiver);
        }

        /** The same, only where something is so. */
        public Guard onlyIf(Flag flag) {
            return new Guard(caption, query, words, Optional.of(flag), waiver);
        }

        /** The same, with an option that lets it pass. */
        public Guard waivedBy(String option) {
            return new Guard(caption, query, words, onlyIf, Optional.of(option));
        }

        @Override
        public String sql(Dialect dialect) {
            return query;
        }
    }

    /** Steps with the questions before them that tell which of them have anything to do; what they ask themselves is left to them. */
    static List<Step> asking(List<? extends Step> steps) {
        Set<Flag> askedLater = new HashSet<>();
        steps.forEach(step -> askedLater.addAll(step instanceof Ask ask ? ask.asked() : List.of()));
        List<Flag> flags = steps.stream()
                .flatMap(step -> step.flags().stream())
                .filter(flag -> !askedLater.contains(flag))
                .distinct()
                .toList();
        List<Step> all = new ArrayList<>();
        if (!flags.isEmpty()) {
            all.add(new Ask(caption("questions", "What there is to do."), flags, Optional.empty()));
        }
        all.addAll(steps);
        return all;
    }
}
