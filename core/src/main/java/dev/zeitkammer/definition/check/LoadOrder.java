package dev.zeitkammer.definition.check;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Fact;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.IntStream;

/**
 * In which order tables are loaded: dimensions first, facts after; among them those that others look up, read, or are said to
 * come after, before these. The order is otherwise that in which they stand.
 */
public final class LoadOrder {

    private static final Pattern READ = Pattern.compile(
            "(?i)\\b(?:from|join)\\s+(?:(?:\"[^\"]+\"|[\\p{L}_][\\p{L}\\p{N}_$]*)\\s*\\.\\s*)*(?:\"([^\"]+)\"|([\\p{L}_][\\p{L}\\p{N}_$]*))");

    private final Problems problems;
    private final Map<String, Definition> byTable = new LinkedHashMap<>();
    private final Map<String, List<String>> follows = new LinkedHashMap<>();

    public LoadOrder(Problems problems) {
        this.problems = problems;
    }

    /** Takes in tables whose names others can say. */
    public LoadOrder knowing(List<? extends Definition> definitions) {
        for (Definition definition : definitions) {
            byTable.putIfAbsent(Word.folded(definition.table()), definition);
        }
        return this;
    }

    /** For each table those that are loaded before it although it does not look them up, by their names. */
    public Map<String, List<String>> follows() {
        byTable.values().forEach(definition -> {
            Set<Definition> before = new LinkedHashSet<>(read(definition));
            definition.after().forEach(word -> named(word, definition).ifPresent(before::add));
            before.remove(definition);
            refuseFacts(definition, before);
            if (!before.isEmpty()) {
                follows.put(
                        definition.table(),
                        before.stream().map(Definition::table).toList());
            }
        });
        return follows;
    }

    private Optional<Definition> named(Word word, Definition definition) {
        Optional<Definition> found = Optional.ofNullable(byTable.get(Word.folded(word.text())))
                .or(() -> byTable.values().stream()
                        .filter(other -> other.name().text().equals(word.text()))
                        .findFirst());
        if (found.isEmpty()) {
            problems.add(
                    word.place(),
                    "\"" + definition.name() + "\" is to be loaded after \"" + word + "\", and there is no such table; "
                            + Nearest.hint(
                                    word.text(),
                                    byTable.values().stream()
                                            .map(other -> other.name().text())
                                            .toList()));
        }
        return found;
    }

    /** Facts are loaded after all dimensions, whose keys they look up. */
    private void refuseFacts(Definition definition, Set<Definition> before) {
        if (definition instanceof Dimension) {
            before.stream().filter(Fact.class::isInstance).findFirst().ifPresent(fact -> {
                problems.add(
                        definition.name().place(),
                        "the dimension \"" + definition.name() + "\" reads the fact \"" + fact.name()
                                + "\" or is to come after it, and dimensions are loaded before facts");
                before.remove(fact);
            });
        }
    }

    /** The tables of the project that the inputs of one read. */
    private Set<Definition> read(Definition definition) {
        Set<Definition> read = new LinkedHashSet<>();
        definition.from().ifPresent(input -> read(input, read));
        if (definition instanceof Fact fact) {
            fact.feeds().forEach(feed -> read(feed.from(), read));
        }
        return read;
    }

    private void read(Input input, Set<Definition> read) {
        if (input.origin() instanceof Input.Table table && table.database().isEmpty()) {
            String[] parts = Word.folded(table.name().text()).split("\\.");
            Optional.ofNullable(byTable.get(parts[parts.length - 1])).ifPresent(read::add);
        } else if (input.origin() instanceof Input.Query query
                && query.database().isEmpty()) {
            Matcher names = READ.matcher(query.sql().text());
            while (names.find()) {
                String name = names.group(1) == null ? names.group(2) : names.group(1);
                Optional.ofNullable(byTable.get(Word.folded(name))).ifPresent(read::add);
            }
            query.inputs().forEach(each -> read(each, read));
        } else if (input.origin() instanceof Input.Join join) {
            read(join.from(), read);
            join.with().forEach(joined -> read(joined.input(), read));
        }
    }

    /** Tables in order of loading; a circle is a problem that names its path. */
    public <D extends Definition> List<D> of(List<D> definitions) {
        List<D> ordered = new ArrayList<>();
        definitions.forEach(definition -> visit(definition, definitions, ordered, new ArrayList<>()));
        return List.copyOf(ordered);
    }

    private <D extends Definition> void visit(D definition, List<D> all, List<D> ordered, List<D> path) {
        if (place(definition, ordered) >= 0) {
            return;
        }
        int before = place(definition, path);
        if (before >= 0) {
            refuse(path.subList(before, path.size()), definition);
            return;
        }
        path.add(definition);
        all.stream()
                .filter(other -> other != definition && comesBefore(other, definition))
                .sorted(Comparator.comparing(
                        other -> definition.dependsOn().indexOf(other.name().text())))
                .forEach(other -> visit(other, all, ordered, path));
        path.remove(path.size() - 1);
        if (place(definition, ordered) < 0) {
            ordered.add(definition);
        }
    }

    /** Where the very same definition stands, or -1; to compare all that definitions say takes longer than to read them. */
    private static <D> int place(D definition, List<D> among) {
        return IntStream.range(0, among.size())
                .filter(index -> among.get(index) == definition)
                .findFirst()
                .orElse(-1);
    }

    private boolean comesBefore(Definition other, Definition definition) {
        boolean isLookedUp = other instanceof Dimension
                && definition.dependsOn().contains(other.name().text());
        return isLookedUp || follows.getOrDefault(definition.table(), List.of()).contains(other.table());
    }

    private void refuse(List<? extends Definition> cycle, Definition first) {
        List<String> names =
                new ArrayList<>(cycle.stream().map(each -> each.name().text()).toList());
        names.add(first.name().text());
        boolean lookUp = cycle.stream().allMatch(each -> !follows.containsKey(each.table()));
        problems.add(
                first.name().place(),
                (lookUp
                                ? "these dimensions look each other up in a circle, so that none can be loaded first: "
                                : "these tables look up or read each other in a circle, so that none can be loaded first: ")
                        + String.join(" → ", names));
    }
}
