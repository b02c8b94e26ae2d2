package dev.zeitkammer.cli.command;

import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.reading.ProjectReader;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.lineage.DefinitionLineage;
import dev.zeitkammer.lineage.Headers;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import picocli.CommandLine;
import picocli.CommandLine.Model.ArgSpec;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Model.OptionSpec;
import picocli.CommandLine.Model.PositionalParamSpec;

/**
 * The words that can stand at the end of a command line. What they are is read off the commands themselves, and off the project in
 * the folder that the line names.
 */
final class Completions {

    /** What a shell completes by itself. */
    private static final String FILES = ":files";

    private static final String FOLDERS = ":folders";

    private final Map<String, String> environment;
    private final Path here;

    Completions(Map<String, String> environment, Path here) {
        this.environment = environment;
        this.here = here;
    }

    /**
     * Words that begin as the last one does.
     *
     * @param line the words of the line behind the program's name; the last one, which may be empty, is to be completed
     */
    List<String> of(List<String> line) {
        String last = line.isEmpty() ? "" : line.get(line.size() - 1);
        CommandLine command = CommandLineProgram.everyCommand(environment);
        Optional<OptionSpec> open = Optional.empty();
        int position = 0;
        Path folder = here;
        for (String word : line.subList(0, Math.max(0, line.size() - 1))) {
            if (open.isPresent()) {
                folder = open.get().longestName().equals("--project") ? path(word, folder) : folder;
                open = Optional.empty();
            } else if (word.startsWith("-")) {
                open = Optional.ofNullable(command.getCommandSpec().findOption(word))
                        .filter(option -> option.arity().max() > 0);
            } else if (command.getSubcommands().containsKey(word)) {
                command = command.getSubcommands().get(word);
            } else {
                position++;
            }
        }
        CommandSpec spec = command.getCommandSpec();
        Path project = folder;
        int at = position;
        Stream<String> words = open.<Stream<String>>map(option -> values(option, project))
                .orElseGet(() -> last.startsWith("-") ? options(spec) : words(spec, at, project));
        return Stream.concat(words, open.isPresent() ? Stream.empty() : columns(spec, at, last, project))
                .filter(word -> word.startsWith(last) || word.startsWith(":"))
                .distinct()
                .toList();
    }

    private Path path(String word, Path otherwise) {
        try {
            return here.resolve(word);
        } catch (InvalidPathException notOne) {
            return otherwise;
        }
    }

    private static Stream<String> options(CommandSpec spec) {
        return spec.options().stream()
                .filter(option -> !option.hidden())
                .map(OptionSpec::longestName)
                .sorted();
    }

    private Stream<String> words(CommandSpec spec, int position, Path folder) {
        if (!spec.subcommands().isEmpty()) {
            return spec.subcommands().entrySet().stream()
                    .filter(command ->
                            !command.getValue().getCommandSpec().usageMessage().hidden())
                    .map(Map.Entry::getKey);
        }
        return spec.positionalParameters().stream()
                .filter(parameter -> parameter.index().contains(position))
                .findFirst()
                .map(parameter -> values(parameter, folder))
                .orElseGet(Stream::empty);
    }

    /** The columns of a table or an input whose name is written already, where a column can follow. */
    private static Stream<String> columns(CommandSpec spec, int position, String last, Path folder) {
        int dot = last.lastIndexOf('.');
        boolean canFollow = dot > 0
                && spec.positionalParameters().stream()
                        .anyMatch(parameter -> parameter.index().contains(position)
                                && parameter.paramLabel().contains("COLUMN"));
        if (!canFollow) {
            return Stream.empty();
        }
        String name = last.substring(0, dot);
        return project(folder).stream()
                .map(project -> DefinitionLineage.of(project, Headers.UNKNOWN))
                .flatMap(lineage -> lineage.datasets().stream()
                        .filter(dataset -> dataset.name().equals(name)
                                || dataset.equals(lineage.names().get(name)))
                        .flatMap(dataset -> lineage.fields(dataset).stream()))
                .map(field -> name + "." + field.name());
    }

    /** What can stand for a label of the help: words of its own, names of the project, files. */
    private Stream<String> values(ArgSpec argument, Path folder) {
        String label = argument.paramLabel();
        if (argument instanceof OptionSpec option && option.longestName().equals("--warehouse")) {
            return project(folder).stream()
                    .flatMap(project ->
                            project.settings().warehouses().keySet().stream().sorted());
        }
        if (argument instanceof PositionalParamSpec && label.equals("SHELL")) {
            return Stream.of("bash", "zsh", "fish");
        }
        return Arrays.stream(label.split("[|\\[\\]]")).flatMap(part -> named(part, folder));
    }

    private Stream<String> named(String label, Path folder) {
        return switch (label) {
            case "FORM" -> Stream.of("text", "json", "csv");
            case "FILE" -> Stream.of(FILES);
            case "DIR" -> Stream.of(FOLDERS);
            case "PICTURE" -> DrawCommand.PICTURES.stream();
            case "TABLE" ->
                project(folder).stream()
                        .flatMap(project -> project.definitions().stream())
                        .map(Completions::name);
            case "DIMENSION" ->
                project(folder).stream()
                        .flatMap(project -> project.dimensions().stream())
                        .filter(dimension -> !dimension.isOthers())
                        .map(Completions::name);
            case "INPUT" ->
                project(folder).stream()
                        .flatMap(project -> project.inputs().stream())
                        .map(Input::name)
                        .map(Object::toString);
            default -> label.equals(label.toLowerCase(Locale.ROOT)) ? Stream.of(label) : Stream.empty();
        };
    }

    private static String name(Definition definition) {
        return definition.name().text();
    }

    /** The project, where there is a sound one. */
    private static Optional<Project> project(Path folder) {
        try {
            return Optional.of(ProjectReader.readAlone(folder));
        } catch (ZeitkammerException none) {
            return Optional.empty();
        }
    }
}
