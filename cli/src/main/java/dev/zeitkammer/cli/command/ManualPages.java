package dev.zeitkammer.cli.command;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import picocli.CommandLine;
import picocli.CommandLine.Model.ArgSpec;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Model.OptionSpec;
import picocli.CommandLine.Model.PositionalParamSpec;

/**
 * Manual pages in the language of man, one for the program and one for each command, made of the same texts as the help. What a
 * macro does is described in man(7).
 */
final class ManualPages {

    private static final String SECTION = ".1";

    private final CommandLine program;
    private final Map<String, List<String>> examples = Examples.all();

    ManualPages(CommandLine program) {
        this.program = program;
    }

    /** The pages by the names of their files, such as zeitkammer-load.1. */
    Map<String, String> all() {
        Map<String, String> pages = new LinkedHashMap<>();
        pages.put(program.getCommandName() + SECTION, ofProgram());
        commands().forEach((name, command) -> pages.put(page(name) + SECTION, ofCommand(name, command)));
        return pages;
    }

    private Map<String, CommandLine> commands() {
        Map<String, CommandLine> commands = new LinkedHashMap<>(program.getSubcommands());
        commands.values()
                .removeIf(command -> command.getCommandSpec().usageMessage().hidden());
        commands.remove("help");
        return commands;
    }

    private String page(String command) {
        return program.getCommandName() + "-" + command;
    }

    private String ofProgram() {
        CommandSpec spec = program.getCommandSpec();
        StringBuilder text = head(program.getCommandName(), spec);
        text.append(".SH SYNOPSIS\n.B ").append(escaped(spec.name())).append("\nCOMMAND [options]\n");
        text.append(".SH COMMANDS\n");
        commands()
                .forEach((name, command) -> text.append(".TP\n.BR ")
                        .append(escaped(page(name)))
                        .append(" (1)\n")
                        .append(line(description(command.getCommandSpec()))));
        options(text, spec);
        text.append(".SH FILES\n.TP\n.I zeitkammer.yaml\n").append(line("The project, in its folder."));
        return closed(text);
    }

    private String ofCommand(String name, CommandLine command) {
        CommandSpec spec = command.getCommandSpec();
        StringBuilder text = head(page(name), spec);
        text.append(".SH SYNOPSIS\n.B ")
                .append(escaped(program.getCommandName() + " " + name))
                .append('\n');
        text.append(line(synopsis(spec)));
        text.append(".SH DESCRIPTION\n");
        Arrays.stream(spec.usageMessage().description())
                .forEach(paragraph -> text.append(".PP\n").append(line(paragraph)));
        parameters(text, spec);
        options(text, spec);
        if (examples.containsKey(name)) {
            text.append(".SH EXAMPLES\n.nf\n");
            examples.get(name).forEach(example -> text.append(line(example.strip())));
            text.append(".fi\n");
        }
        return closed(text);
    }

    private StringBuilder head(String page, CommandSpec spec) {
        String version = spec.root().version().length > 0 ? spec.root().version()[0] : program.getCommandName();
        return new StringBuilder()
                .append(".TH \"" + page.toUpperCase(Locale.ROOT) + "\" \"1\" \"\" \"" + version + "\" \"\"\n")
                .append(".SH NAME\n" + escaped(page) + " \\- " + line(description(spec)));
    }

    /** The first sentence of what a command does. */
    private static String description(CommandSpec spec) {
        String first = spec.usageMessage().description()[0];
        return first.replaceFirst("\\. .*", "").replaceFirst("[.:]$", "");
    }

    private static String synopsis(CommandSpec spec) {
        List<String> words = new ArrayList<>();
        spec.positionalParameters().stream()
                .filter(parameter -> !parameter.hidden())
                .forEach(parameter ->
                        words.add((parameter.required() ? parameter.paramLabel() : "[" + parameter.paramLabel() + "]")
                                + (parameter.arity().max() > 1 ? "..." : "")));
        words.add("[options]");
        return String.join(" ", words);
    }

    private static void parameters(StringBuilder text, CommandSpec spec) {
        List<PositionalParamSpec> parameters = spec.positionalParameters().stream()
                .filter(parameter -> !parameter.hidden())
                .toList();
        if (!parameters.isEmpty()) {
            text.append(".SH ARGUMENTS\n");
            parameters.forEach(parameter -> entry(text, "\\fI" + escaped(parameter.paramLabel()) + "\\fR", parameter));
        }
    }

    private static void options(StringBuilder text, CommandSpec spec) {
        text.append(".SH OPTIONS\n");
        for (OptionSpec option : spec.options()) {
            if (!option.hidden()) {
                String label = option.arity().max() > 0 ? " \\fI" + escaped(option.paramLabel()) + "\\fR" : "";
                String names = Arrays.stream(option.names())
                        .map(name -> "\\fB" + escaped(name) + "\\fR" + label)
                        .collect(Collectors.joining(", "));
                entry(text, names, option);
            }
        }
    }

    private static void entry(StringBuilder text, String head, ArgSpec argument) {
        text.append(".TP\n").append(head).append('\n').append(line(String.join(" ", argument.description())));
    }

    private String closed(StringBuilder text) {
        String status = Arrays.stream(program.getCommandSpec().usageMessage().footer())
                .collect(Collectors.joining(" "))
                .strip()
                .replaceFirst("^Exit status: ", "");
        text.append(".SH EXIT STATUS\n").append(line(status));
        text.append(".SH SEE ALSO\n.BR ")
                .append(escaped(program.getCommandName()))
                .append(" (1)\n");
        return text.toString();
    }

    /** A line of text; nothing in it is taken for a macro. */
    private static String line(String text) {
        String escaped = escaped(text.replace("%%", "%"));
        return (escaped.startsWith(".") || escaped.startsWith("'") ? "\\&" : "") + escaped + "\n";
    }

    private static String escaped(String text) {
        return text.replace("\\", "\\e").replace("-", "\\-");
    }
}
