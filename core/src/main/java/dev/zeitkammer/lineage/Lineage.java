package dev.zeitkammer.lineage;

import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.UsageException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Where the columns of a project come from: from a column back to files, and forward to what uses it.
 *
 * @param names tables by the names of their definitions; the first of two is that of the dimension
 * @param fields the columns of everything, each with what it is in words
 * @param flows which column decides which
 * @param rules what decides which rows something has
 * @param unread what could not be read, so that every column counts as used; each as a message
 */
public record Lineage(
        Map<String, Dataset> names,
        Map<Field, String> fields,
        Set<Flow> flows,
        Map<Dataset, List<Rule>> rules,
        List<String> unread) {

    public Lineage {
        names = new LinkedHashMap<>(names);
        fields = new LinkedHashMap<>(fields);
        flows = new LinkedHashSet<>(flows);
        rules = new LinkedHashMap<>(rules);
        unread = List.copyOf(unread);
    }

    /** Everything that has columns, tables of the project first. */
    public List<Dataset> datasets() {
        List<Dataset> all =
                fields.keySet().stream().map(Field::dataset).distinct().toList();
        List<Dataset> ordered =
                new ArrayList<>(all.stream().filter(Dataset::isTable).toList());
        all.stream().filter(dataset -> !dataset.isTable()).forEach(ordered::add);
        return ordered;
    }

    public List<Field> fields(Dataset dataset) {
        return fields.keySet().stream()
                .filter(field -> field.dataset().equals(dataset))
                .toList();
    }

    /** What a column is, in words. */
    public String meaning(Field field) {
        return fields.getOrDefault(field, "");
    }

    public List<Rule> rules(Dataset dataset) {
        return rules.getOrDefault(dataset, List.of());
    }

    /** What decides a column. */
    public List<Flow> into(Field field) {
        return flows.stream().filter(flow -> flow.to().equals(field)).toList();
    }

    /** What a column decides. */
    public List<Flow> outOf(Field field) {
        return flows.stream().filter(flow -> flow.from().equals(field)).toList();
    }

    /** Whether a column decides another one, or is decided by one. */
    public boolean isConnected(Field field) {
        return flows.stream()
                .anyMatch(flow -> flow.from().equals(field) || flow.to().equals(field));
    }

    /** The columns at the far ends of the ways back from a column: of files, of tables outside, or made by the program. */
    public List<Field> origins(Field field) {
        Set<Field> seen = new LinkedHashSet<>();
        Set<Field> ends = new LinkedHashSet<>();
        collect(field, seen, ends);
        return List.copyOf(ends);
    }

    private void collect(Field field, Set<Field> seen, Collection<Field> ends) {
        if (!seen.add(field)) {
            return;
        }
        List<Flow> before = into(field);
        if (before.isEmpty()) {
            ends.add(field);
        }
        before.forEach(flow -> collect(flow.from(), seen, ends));
    }

    /**
     * What a user names: a table or an input, or a column of one behind a dot.
     *
     * @param column empty where all columns are meant
     */
    public record Named(Dataset dataset, Optional<Field> column) {}

    /**
     * Finds what a user names.
     *
     * @throws UsageException where there is nothing of that name
     */
    public Named named(String words) {
        return Optional.<Named>empty()
                .or(() -> dataset(words).map(dataset -> new Named(dataset, Optional.empty())))
                .or(() -> column(words))
                .orElseThrow(() -> unknown(words));
    }

    private Optional<Named> column(String words) {
        for (int dot = words.indexOf('.'); dot >= 0; dot = words.indexOf('.', dot + 1)) {
            String name = words.substring(dot + 1);
            Optional<Dataset> owner = dataset(words.substring(0, dot));
            Optional<Named> found = owner.flatMap(dataset -> fields(dataset).stream()
                    .filter(field -> field.name().equalsIgnoreCase(name))
                    .findFirst()
                    .map(field -> new Named(dataset, Optional.of(field))));
            if (found.isPresent()) {
                return found;
            }
        }
        return Optional.empty();
    }

    /** A table by its own name, then by that of its definition; then anything else. */
    private Optional<Dataset> dataset(String name) {
        Optional<Dataset> exact = datasets().stream()
                .filter(dataset -> dataset.name().equalsIgnoreCase(name))
                .findFirst();
        return exact.filter(Dataset::isTable)
                .or(() -> Optional.ofNullable(names.get(name)))
                .or(() -> exact);
    }

    private UsageException unknown(String words) {
        for (int dot = words.indexOf('.'); dot >= 0; dot = words.indexOf('.', dot + 1)) {
            Optional<Dataset> owner = dataset(words.substring(0, dot));
            if (owner.isPresent()) {
                String name = words.substring(dot + 1);
                return new UsageException(owner.get().name() + " has no column \"" + name + "\"; "
                        + Nearest.hint(
                                name,
                                fields(owner.get()).stream().map(Field::name).toList()));
            }
        }
        return new UsageException("There is no table or input \"" + words + "\" in this project; "
                + Nearest.hint(words, datasets().stream().map(Dataset::name).toList()));
    }
}
