package dev.zeitkammer.load;

import dev.zeitkammer.definition.Assertion;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.ExtraStep;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Relation;
import dev.zeitkammer.engine.TableChange;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.Preview.Ready;
import dev.zeitkammer.staging.StagedRows;
import dev.zeitkammer.step.AssertedRows;
import dev.zeitkammer.step.Change;
import dev.zeitkammer.step.Expressions;
import dev.zeitkammer.step.Flag;
import dev.zeitkammer.step.Plan;
import dev.zeitkammer.step.Step;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * A load in words and SQL, for readers.
 *
 * @param table the table that is loaded
 * @param relations the scratch relations of the steps, in the order in which they are made
 * @param statements everything that is executed, in order
 */
public record Explanation(String table, List<Relation> relations, List<Statement> statements) {

    /**
     * A statement with its name and purpose.
     *
     * @param onlyIf a condition in SQL; where it is not so, the statement has nothing to do and is not run
     */
    public record Statement(String name, String purpose, Optional<String> onlyIf, String sql) {}

    public Explanation {
        relations = List.copyOf(relations);
        statements = List.copyOf(statements);
    }

    /** The same between the extra steps that run before and after its table. */
    public Explanation with(List<ExtraStep> extra, String name) {
        List<Statement> all = new ArrayList<>();
        extra.stream()
                .filter(step -> step.anchor().equals(name) && step.isBefore())
                .map(Explanation::extra)
                .forEach(all::add);
        all.addAll(statements);
        extra.stream()
                .filter(step -> step.anchor().equals(name) && !step.isBefore())
                .map(Explanation::extra)
                .forEach(all::add);
        return new Explanation(table, relations, all);
    }

    /** What is asserted of the delivery and the table, and how it is published. */
    public Explanation judging(Definition definition, Dialect dialect) {
        List<Statement> all = new ArrayList<>(statements);
        definition
                .from()
                .ifPresent(input -> input.assertions()
                        .forEach(assertion -> all.add(asserted(assertion, StagedRows.TABLE + " as s", dialect))));
        definition
                .demands()
                .assertions()
                .forEach(assertion ->
                        all.add(asserted(assertion, dialect.quote(definition.table()) + " as t", dialect)));
        definition
                .publish()
                .ifPresent(publish -> all.add(new Statement(
                        "publish",
                        "Writes the table out for readers elsewhere, once it stands and where it has changed.",
                        Optional.empty(),
                        "-- to " + publish.to() + ", as "
                                + publish.form().name().toLowerCase(Locale.ROOT))));
        return new Explanation(table, relations, all);
    }

    private static Statement asserted(Assertion assertion, String rows, Dialect dialect) {
        String sql = switch (assertion.kind()) {
            case ROWS, VALUES ->
                "select * from " + rows + " where not coalesce(" + AssertedRows.condition(assertion, dialect)
                        + ", true)";
            case UNIQUE -> AssertedRows.twice(assertion, rows, dialect);
            case TOTAL -> "select " + Expressions.sql(assertion.sql().orElseThrow()) + " from " + rows;
            case STAGED, AGAINST_LAST -> "select count(*) from " + rows;
        };
        return new Statement(
                "assertion " + assertion.name(),
                "Asserted: " + assertion.claim() + "; otherwise: "
                        + assertion.otherwise().name().toLowerCase(Locale.ROOT).replace('_', '-') + ".",
                Optional.empty(),
                sql);
    }

    private static Statement extra(ExtraStep step) {
        String what = step.sql().map(Word::text).orElseGet(() -> "-- command: " + String.join(" ", step.command()));
        return new Statement("extra step " + step.name(), "Runs " + step.where() + ".", Optional.empty(), what);
    }

    /** Explains a load that is ready to run. */
    public static Explanation of(Ready ready, Warehouse warehouse) {
        List<Plan> plans = new ArrayList<>(ready.prepared().plans());
        ready.feeds().forEach(feed -> plans.addAll(feed.prepared().plans()));
        ready.upkeep().ifPresent(plans::add);
        Set<Relation> relations = new LinkedHashSet<>();
        plans.forEach(plan -> relations.addAll(plan.relations()));
        return new Explanation(
                ready.definition().table(),
                List.copyOf(byName(relations).values()),
                new Explaining(warehouse).statements(ready));
    }

    /** A relation that several plans make stands once. */
    private static Map<String, Relation> byName(Set<Relation> relations) {
        Map<String, Relation> byName = new LinkedHashMap<>();
        relations.forEach(relation -> byName.putIfAbsent(relation.name(), relation));
        return byName;
    }

    private record Explaining(Warehouse warehouse) {

        private List<Statement> statements(Ready ready) {
            List<Statement> all = new ArrayList<>(staging(ready));
            ready.prepared()
                    .alignment()
                    .statements()
                    .forEach(sql -> all.add(
                            new Statement("align", "Make the table fit its definition.", Optional.empty(), sql)));
            ready.prepared().guards().forEach(guard -> all.add(step(guard)));
            ready.prepared()
                    .complete()
                    .ifPresent(complete -> all.add(new Statement(
                            complete.caption().name(),
                            complete.caption().purpose(),
                            Optional.empty(),
                            complete.query())));
            ready.prepared().seeds().forEach(seed -> all.add(change(seed)));
            ready.prepared().plans().forEach(plan -> all.addAll(statements(plan)));
            for (Ready feed : ready.feeds()) {
                all.addAll(staging(feed));
                feed.prepared().plans().forEach(plan -> all.addAll(statements(plan)));
            }
            ready.upkeep().ifPresent(plan -> all.addAll(statements(plan)));
            return all;
        }

        private static List<Statement> staging(Ready ready) {
            return ready.staged().stream()
                    .flatMap(staged -> staged.statements().stream()
                            .map(sql -> new Statement(
                                    "stage",
                                    "Read " + staged.delivery().shown() + " and convert its values.",
                                    Optional.empty(),
                                    sql)))
                    .toList();
        }

        private List<Statement> statements(Plan plan) {
            List<Statement> all = new ArrayList<>();
            plan.steps().forEach(step -> all.add(step(step)));
            plan.changes().forEach(change -> all.add(change(change)));
            plan.lookingBack().forEach(step -> all.add(step(step)));
            plan.books()
                    .forEach(change -> all.add(new Statement(
                            change.what().caption().name(),
                            change.what().caption().purpose(),
                            change.onlyIf().map(Flag::sql),
                            warehouse.told(change.what()))));
            plan.reading()
                    .counts()
                    .forEach(counting -> all.add(new Statement(
                            "count",
                            "The outcomes, for the books.",
                            counting.onlyIf().or(plan.reading()::onlyIf).map(Flag::sql),
                            counting.sql())));
            return all;
        }

        private Statement step(Step step) {
            return new Statement(
                    step.caption().name(),
                    step.caption().purpose(),
                    step instanceof Step.Gather
                            ? Optional.empty()
                            : step.onlyIf().map(Flag::sql),
                    step.sql(warehouse.dialect()));
        }

        private Statement change(Change<TableChange> change) {
            return new Statement(
                    change.what().caption().name(),
                    change.what().caption().purpose(),
                    change.onlyIf().map(Flag::sql),
                    change.what().sql(warehouse.dialect()));
        }
    }
}
