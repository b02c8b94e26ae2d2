package dev.zeitkammer.cli.command;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import picocli.CommandLine;

/** Examples that the help of each command ends with. */
final class Examples {

    private Examples() {}

    /** The examples of each command, as lines. */
    static Map<String, List<String>> all() {
        Map<String, List<String>> examples = new LinkedHashMap<>();
        String command = "";
        for (String line : lines()) {
            if (line.startsWith(" ")) {
                examples.computeIfAbsent(command, first -> new ArrayList<>()).add(line);
            } else {
                command = line;
            }
        }
        return examples;
    }

    /** Puts them before whatever the help of a command ends with already. */
    static void addTo(CommandLine program) {
        Map<String, List<String>> examples = all();
        program.getSubcommands().forEach((name, command) -> {
            List<String> footer = new ArrayList<>();
            if (examples.containsKey(name)) {
                footer.add("");
                footer.add("Examples:");
                examples.get(name).forEach(line -> footer.add(line.replace("%", "%%")));
            }
            footer.addAll(Arrays.asList(command.getCommandSpec().usageMessage().footer()));
            command.getCommandSpec().usageMessage().footer(footer.toArray(String[]::new));
        });
    }

    private static List<String> lines() {
        try (InputStream in = Examples.class.getResourceAsStream("/examples.txt")) {
            if (in == null) {
                throw new IllegalStateException("the program lacks its examples");
            }
            return new BufferedReader(new InputStreamReader(in, StandardCharsets.UTF_8))
                    .lines()
                    .toList();
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }
}
