package dev.zeitkammer.cli.command;

import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.UsageException;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer completion}. */
@Command(
        name = "completion",
        description = {
            "Prints what a shell needs to complete commands, options and the project's names: bash, zsh or fish.",
            "For bash: source <(zeitkammer completion bash)"
        })
final class CompletionCommand extends BaseCommand {

    private static final List<String> SHELLS = List.of("bash", "zsh", "fish");

    @Parameters(paramLabel = "SHELL", arity = "0..*", description = "bash, zsh or fish.")
    private List<String> words = new ArrayList<>();

    /** What a shell asks: which words can stand in place of the last one. */
    @Option(names = "--words", hidden = true)
    private boolean asked;

    @Override
    int run() {
        if (asked) {
            new Completions(root().context().environment(), root().context().here())
                    .of(words)
                    .forEach(output()::line);
            return ExitStatus.DONE;
        }
        String shell = words.isEmpty() ? "" : words.get(0);
        if (words.size() != 1 || !SHELLS.contains(shell)) {
            throw new UsageException("Which shell? " + Nearest.hint(shell, SHELLS));
        }
        output().block(script(shell));
        return ExitStatus.DONE;
    }

    private static String script(String shell) {
        try (InputStream in = CompletionCommand.class.getResourceAsStream("/completion/" + shell)) {
            if (in == null) {
                throw new IllegalStateException("the program lacks completion/" + shell);
            }
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }
}
