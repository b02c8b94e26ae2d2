package dev.zeitkammer.definition;

import dev.zeitkammer.engine.DatabaseAddress;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * A project: its conventions, its warehouses and the tables it loads.
 *
 * @param folder the folder it lives in, absolute
 * @param settings what its file says for all tables
 * @param extra statements and commands that run at places in the load
 * @param inputs those with files of their own
 * @param dimensions in order of their files' names
 * @param facts in order of their files' names
 * @param follows for each table those that are loaded before it although it does not look them up, by name
 * @param withheld the variables outside of addresses that were not put in, since nobody has vouched for the project; empty: somebody
 *     has
 */
public record Project(
        Path folder,
        Settings settings,
        List<ExtraStep> extra,
        List<Input> inputs,
        List<Dimension> dimensions,
        List<Fact> facts,
        Map<String, List<String>> follows,
        Optional<Set<String>> withheld) {

    /** The file that makes a folder a project. */
    public static final String FILE = "zeitkammer.yaml";

    /** How the input that a table's own definition holds is named: the table, and this. */
    private static final String OF_TABLE = ":input";

    public Project {
        inputs = List.copyOf(inputs);
        dimensions = List.copyOf(dimensions);
        facts = List.copyOf(facts);
    }

    /** The same project, loaded into a named one of its warehouses. */
    public Project using(String warehouse) {
        return new Project(folder, settings.using(warehouse), extra, inputs, dimensions, facts, follows, withheld);
    }

    /** Where a table is published, as its definition says it, with the name of the warehouse put in. */
    public Word publishedTo(Publish publish) {
        return new Word(
                publish.to().text().replace("{warehouse}", settings.use()),
                publish.to().place());
    }

    public String name() {
        return settings.name();
    }

    /** All tables, dimensions first. */
    public List<Definition> definitions() {
        return known().stream().filter(Project::isLoaded).toList();
    }

    private static boolean isLoaded(Definition definition) {
        return !(definition instanceof Dimension dimension) || !dimension.isOthers();
    }

    /** All tables that are defined, also dimensions that others load. */
    public List<Definition> known() {
        List<Definition> all = new ArrayList<>(dimensions);
        all.addAll(facts);
        return List.copyOf(all);
    }

    /** Every input: those with files of their own, those written inside definitions, and those that others are made of. */
    public Set<Input> allInputs() {
        Set<Input> all = new LinkedHashSet<>();
        inputs.forEach(input -> collect(input, all));
        all.addAll(inputsOf(definitions()));
        return all;
    }

    /** The inputs of some definitions, and those that they are made of. */
    public static Set<Input> inputsOf(List<Definition> definitions) {
        Set<Input> all = new LinkedHashSet<>();
        for (Definition definition : definitions) {
            definition.from().ifPresent(input -> collect(input, all));
            if (definition instanceof Fact fact) {
                fact.feeds().forEach(feed -> collect(feed.from(), all));
            }
        }
        return all;
    }

    private static void collect(Input input, Set<Input> all) {
        all.add(input);
        input.parts().forEach(part -> collect(part, all));
    }

    /** The tables that are loaded before one, by the names of their definitions: it looks them up, reads them, or says so. */
    public List<String> before(Definition definition) {
        List<String> before = new ArrayList<>(definition.dependsOn());
        follows.getOrDefault(definition.table(), List.of())
                .forEach(table -> before.add(definition(table).name().text()));
        return before;
    }

    /** The definition that a user names: by its own name or that of its table. */
    public Definition definition(String named) {
        Optional<Definition> found = definitions().stream()
                .filter(definition -> definition.table().equals(named))
                .findFirst()
                .or(() -> definitions().stream()
                        .filter(definition -> definition.name().text().equals(named))
                        .findFirst());
        dimensions.stream()
                .filter(dimension -> found.isEmpty() && dimension.isOthers())
                .filter(dimension -> dimension.name().text().equals(named)
                        || dimension.table().equals(named))
                .findFirst()
                .ifPresent(others -> {
                    throw new UsageException("Others load " + others.table() + ": it is looked up, and nothing else");
                });
        return found.orElseThrow(
                () -> new UsageException("There is no table \"" + named + "\" in this project; " + nearest(named)));
    }

    /** By the names of definitions, since these are what one types; else all tables. */
    private String nearest(String named) {
        List<String> names = definitions().stream()
                .map(definition -> definition.name().text())
                .toList();
        List<String> tables = definitions().stream().map(Definition::table).toList();
        return Nearest.hint(named, Nearest.to(named, names).isPresent() ? names : tables);
    }

    /** An input by its name, or as that of a table, such as {@code hut:input}; empty where there is none, or a table is named so. */
    public Optional<Input> input(String named) {
        if (named.endsWith(OF_TABLE)) {
            Definition owner = definition(named.substring(0, named.length() - OF_TABLE.length()));
            return Optional.of(owner.from()
                    .orElseThrow(() -> new UsageException(owner.table() + " has no input: it makes its own rows")));
        }
        boolean isTable = definitions().stream()
                .anyMatch(definition -> definition.table().equals(named)
                        || definition.name().text().equals(named));
        return inputs.stream()
                .filter(input -> !isTable && input.name().text().equals(named))
                .findFirst();
    }

    /** The warehouse to load into: the named one, or the one the project uses. */
    public DatabaseAddress warehouse(Optional<String> named) {
        String wanted = named.orElse(settings.use());
        DatabaseAddress address = settings.warehouses().get(wanted);
        if (address == null) {
            throw new UsageException("There is no warehouse \"" + wanted + "\" in " + FILE + "; "
                    + Nearest.hint(wanted, settings.warehouses().keySet()));
        }
        return address;
    }
}
