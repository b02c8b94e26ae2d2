package dev.zeitkammer.cli.command;

import dev.zeitkammer.engine.ZeitkammerException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** {@code zeitkammer manual}: for those who make packages. */
@Command(name = "manual", hidden = true, description = "Writes a manual page for each command, as man reads them.")
final class ManualCommand extends BaseCommand {

    @Option(names = "--to", paramLabel = "DIR", required = true, description = "The folder to write to.")
    private Path folder = Path.of("");

    @Override
    int run() {
        Map<String, String> pages =
                new ManualPages(CommandLineProgram.everyCommand(root().context().environment())).all();
        try {
            Files.createDirectories(folder);
            for (Map.Entry<String, String> page : pages.entrySet()) {
                Files.writeString(folder.resolve(page.getKey()), page.getValue());
            }
        } catch (IOException refused) {
            throw new ZeitkammerException("Cannot write to " + folder + ": " + refused.getMessage(), refused);
        }
        return ExitStatus.DONE;
    }
}
