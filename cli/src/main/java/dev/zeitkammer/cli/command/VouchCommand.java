package dev.zeitkammer.cli.command;

import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Reach;
import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.definition.reading.ProjectReader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** {@code zeitkammer vouch}. */
@Command(
        name = "vouch",
        description = {
            "Says that you trust a project: it may reach beyond its own folder, with connections, variables, files elsewhere, commands.",
            "It is said once for a folder, and noted for you, outside of the project. What new and demo make is vouched for."
        })
final class VouchCommand extends BaseCommand {

    @Option(names = "--show", description = "Shows what the project asks for, and changes nothing.")
    private boolean show;

    @Option(names = "--no-longer", description = "Takes it back.")
    private boolean noLonger;

    @Override
    int run() {
        Path folder = options().project();
        if (!Files.isRegularFile(folder.resolve(Project.FILE))) {
            throw new UsageException("There is no " + Project.FILE + " in "
                    + folder.toAbsolutePath().normalize());
        }
        Path shown = folder.toAbsolutePath().normalize();
        if (noLonger) {
            output().line(
                            vouched().forget(folder)
                                    ? "No longer vouched for: " + shown + "."
                                    : "Nobody had vouched for " + shown + ".");
            return ExitStatus.DONE;
        }
        asked(folder).forEach(output()::line);
        if (!show) {
            vouched().note(folder);
            output().line("Vouched for " + shown + ".");
        }
        return ExitStatus.DONE;
    }

    private List<String> asked(Path folder) {
        Project project = ProjectReader.readAlone(folder);
        List<String> asked = Reach.of(project, project.warehouse(options().warehouse()));
        return asked.isEmpty()
                ? List.of("It keeps to its own folder.")
                : asked.stream().map(each -> "It " + each + ".").toList();
    }
}
