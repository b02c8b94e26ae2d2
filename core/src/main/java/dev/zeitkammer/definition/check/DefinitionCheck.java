package dev.zeitkammer.definition.check;

import dev.zeitkammer.definition.Attribute;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Dimension.Kind;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Publish;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlType;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;

/** Checks the definitions of a project against each other. */
public final class DefinitionCheck {

    private final Problems problems;

    public DefinitionCheck(Problems problems) {
        this.problems = problems;
    }

    public void check(List<Dimension> dimensions, List<Fact> facts) {
        distinctNames(dimensions, "dimension");
        distinctNames(facts, "fact");
        distinctTables(dimensions, facts);
        distinctViews(dimensions, facts);
        dimensions.forEach(this::columns);
        facts.forEach(this::columns);
        facts.forEach(fact -> new FactCheck(fact, problems).check());
        dimensions.forEach(this::inclusiveNeedsDates);
        publishedApart(Stream.concat(dimensions.stream(), facts.stream()).toList());
    }

    /** Two tables in one folder would take each other's place there. */
    private void publishedApart(List<? extends Definition> definitions) {
        Map<Path, Definition> seen = new HashMap<>();
        for (Definition definition : definitions) {
            definition.publish().map(Publish::to).ifPresent(to -> {
                Definition other = seen.putIfAbsent(Path.of(to.text()).normalize(), definition);
                if (other != null) {
                    problems.add(
                            to.place(),
                            "\"" + definition.name() + "\" would be published to the folder of \"" + other.name()
                                    + "\", " + to + "; give each table a folder of its own, with {table} for instance");
                }
            });
        }
    }

    /**
     * Assertions are judged, and rows are retained, where a table is loaded from an input; where none is, nobody would do it.
     */
    public void inputs(List<Input> inputs, List<Dimension> dimensions, List<Fact> facts) {
        Set<Input> loaded = new HashSet<>();
        dimensions.forEach(dimension -> dimension.from().ifPresent(loaded::add));
        facts.forEach(fact -> {
            loaded.add(fact.source());
            fact.feeds().forEach(feed -> loaded.add(feed.from()));
        });
        Set<Input> within = new HashSet<>();
        loaded.forEach(input -> within(input, within));
        inputs.stream()
                .filter(within::contains)
                .filter(input -> !loaded.contains(input))
                .forEach(this::unused);
    }

    private static void within(Input input, Set<Input> within) {
        input.parts().stream().filter(within::add).forEach(part -> within(part, within));
    }

    private void unused(Input input) {
        if (!input.assertions().isEmpty()) {
            problems.add(
                    input.assertions().get(0).name().place(),
                    "assertions are judged where a table is loaded from their input, and none is loaded from \""
                            + input.name() + "\", which is part of other inputs only: give them to those");
        }
        if (input.retain()) {
            problems.add(
                    input.name().place(),
                    "rows are retained where a table is loaded from their input, and none is loaded from \""
                            + input.name()
                            + "\", which is part of other inputs only: say keep: to have the latest row of each key, or retain:"
                            + " in those");
        }
    }

    private void distinctNames(List<? extends Definition> definitions, String kind) {
        Map<String, Place> seen = new HashMap<>();
        for (Definition definition : definitions) {
            Word name = definition.name();
            Place before = seen.putIfAbsent(Word.folded(name.text()), name.place());
            if (before != null) {
                problems.add(name.place(), "there is already a " + kind + " \"" + name + "\", in " + before);
            }
        }
    }

    private void distinctTables(List<Dimension> dimensions, List<Fact> facts) {
        Map<String, Definition> seen = new HashMap<>();
        for (List<? extends Definition> definitions : List.of(dimensions, facts)) {
            for (Definition definition : definitions) {
                Definition before = seen.putIfAbsent(Word.folded(definition.table()), definition);
                if (before != null
                        && !before.name().text().equals(definition.name().text())) {
                    problems.add(
                            definition.name().place(),
                            "the table " + definition.table() + " is already that of \"" + before.name() + "\", in "
                                    + before.name().place());
                }
            }
        }
    }

    private void distinctViews(List<Dimension> dimensions, List<Fact> facts) {
        Map<String, String> seen = new HashMap<>();
        dimensions.forEach(dimension -> seen.put(Word.folded(dimension.table()), "a table"));
        facts.forEach(fact -> seen.put(Word.folded(fact.table()), "a table"));
        for (Dimension dimension : dimensions) {
            List<Word> views = new ArrayList<>(dimension.views().roles().values());
            dimension.views().current().ifPresent(views::add);
            for (Word view : views) {
                String before = seen.putIfAbsent(Word.folded(view.text()), "another view");
                if (before != null) {
                    problems.add(view.place(), "the name \"" + view + "\" is already that of " + before);
                }
            }
        }
    }

    private void columns(Dimension dimension) {
        Map<String, String> taken = audit(dimension, EnumSet.allOf(AuditColumn.class));
        taken.put(Word.folded(dimension.keyColumn()), "the surrogate key");
        dimension.key().forEach(word -> take(taken, word, word.text(), "the business key"));
        if (dimension.kind() != Kind.COMBINATION) {
            dimension.attributes().forEach(attribute -> columns(taken, attribute));
        }
        dimension.lookups().forEach(lookup -> take(taken, lookup.lookup().role(), lookup.column(), "a lookup"));
        if (dimension.hasMemberKey()) {
            take(taken, dimension.name(), dimension.memberKeyColumn(), "the member key");
        }
        dimension.reserved().forEach(member -> reservedValues(dimension, taken, member.values()));
    }

    private void columns(Map<String, String> taken, Attribute attribute) {
        take(taken, attribute.name(), attribute.name().text(), "another attribute");
        attribute.previous().ifPresent(previous -> take(taken, previous, previous.text(), "another attribute"));
    }

    /** Values may be given for every column that the definition names; those of all-others are not known yet. */
    private void reservedValues(Dimension dimension, Map<String, String> taken, Map<String, Word> values) {
        if (dimension.allOthers().isPresent()
                || dimension.kind() == Kind.CALENDAR
                || dimension.kind() == Kind.MINUTES) {
            return;
        }
        values.forEach((column, value) -> {
            if (!taken.containsKey(Word.folded(column))) {
                problems.add(
                        value.place(),
                        "\"" + dimension.name() + "\" has no column \"" + column + "\"; "
                                + Nearest.hint(
                                        column,
                                        dimension.attributes().stream()
                                                .map(attribute ->
                                                        attribute.name().text())
                                                .toList()));
            }
        });
    }

    private void columns(Fact fact) {
        Map<String, String> taken = audit(fact, AuditColumn.STAMPS);
        if (fact.marksDeleted()) {
            taken.putAll(audit(fact, EnumSet.of(AuditColumn.IS_DELETED)));
        }
        fact.grain().stream()
                .filter(word -> fact.lookup(word.text()).isEmpty())
                .forEach(word -> take(taken, word, word.text(), "the grain"));
        fact.lookups().forEach(lookup -> take(taken, lookup.role(), lookup.keyColumn(), "a lookup"));
        fact.lookups()
                .forEach(lookup ->
                        lookup.memberColumn().ifPresent(name -> take(taken, lookup.role(), name, "a member key")));
        fact.degenerate().forEach(word -> take(taken, word, word.text(), "a degenerate"));
        fact.measures()
                .forEach(measure -> take(taken, measure.name(), measure.name().text(), "a measure"));
    }

    private static Map<String, String> audit(Definition definition, Set<AuditColumn> columns) {
        Map<String, String> taken = new HashMap<>();
        for (AuditColumn column : columns) {
            taken.put(Word.folded(definition.conventions().column(column)), "an audit column");
        }
        return taken;
    }

    private void take(Map<String, String> taken, Word word, String column, String purpose) {
        if (Word.folded(column).startsWith("zk_")) {
            problems.add(
                    word.place(), "\"" + column + "\" begins with zk_, which is kept for the program's own columns");
        }
        String before = taken.putIfAbsent(Word.folded(column), purpose);
        if (before != null) {
            problems.add(
                    word.place(),
                    "the column \"" + column + "\" is already taken, by " + before
                            + "; columns of a table need different names (audit columns can be renamed under columns:)");
        }
    }

    private void inclusiveNeedsDates(Dimension dimension) {
        if (!dimension.conventions().inclusive() || !dimension.hasHistory()) {
            return;
        }
        dimension
                .from()
                .ifPresent(input -> dimension
                        .history()
                        .effective()
                        .ifPresent(effective -> input.columns().stream()
                                .filter(column -> column.name().text().equalsIgnoreCase(effective.text()))
                                .filter(column -> column.type().kind() == SqlType.Kind.TIMESTAMP)
                                .forEach(column -> problems.add(
                                        effective.place(),
                                        "\"valid-to: inclusive\" is for dates, and \"" + effective
                                                + "\" is a timestamp; use exclusive"))));
    }
}
