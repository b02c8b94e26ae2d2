package dev.zeitkammer.cli.command;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;

import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** The examples of the help: each command has some, they fit, and the program understands them. */
class ExamplesTest {

    private static final int WIDTH = 79;

    @Test
    void everyCommandThatHelpShowsHasTwoOrThree() {
        TreeSet<String> commands = new TreeSet<>();
        CommandLineProgram.everyCommand(Map.of()).getSubcommands().forEach((name, command) -> {
            if (!command.getCommandSpec().usageMessage().hidden()) {
                commands.add(name);
            }
        });
        commands.remove("help");
        assertThat(Examples.all().keySet()).containsExactlyInAnyOrderElementsOf(commands);
        assertThat(Examples.all().values())
                .allSatisfy(lines -> assertThat(lines).hasSizeBetween(2, 3));
    }

    @Test
    void theyFitAndAreUnderstood() {
        Examples.all()
                .forEach((command, lines) -> lines.forEach(line -> {
                    assertThat(line.length()).as(line).isLessThanOrEqualTo(WIDTH);
                    List<String> words = words(line.strip().split(" {3,}")[0]);
                    assertThat(words).as(line).startsWith("zeitkammer", command);
                    assertThatCode(() -> CommandLineProgram.everyCommand(Map.of())
                                    .parseArgs(words.subList(1, words.size()).toArray(String[]::new)))
                            .as(line)
                            .doesNotThrowAnyException();
                }));
    }

    private static List<String> words(String line) {
        return Pattern.compile("\"([^\"]*)\"|(\\S+)")
                .matcher(line)
                .results()
                .map((MatchResult found) -> found.group(1) == null ? found.group(2) : found.group(1))
                .toList();
    }
}
