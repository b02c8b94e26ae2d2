package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.SchemaFiles;
import dev.zeitkammer.definition.DefinitionSchemas;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.UsageException;
import java.nio.file.Files;
import java.nio.file.Path;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code zeitkammer new}. */
@Command(name = "new", description = "Writes an empty project to start from.")
final class NewCommand extends BaseCommand {

    @Parameters(paramLabel = "DIR", description = "The folder to make.")
    private Path folder = Path.of("");

    @Override
    int run() {
        if (Files.exists(folder.resolve(Project.FILE))) {
            throw new UsageException("There is a project in " + folder + " already; nothing was changed");
        }
        ResourceFolder files = new ResourceFolder("/new/");
        String name = folder.toAbsolutePath().normalize().getFileName().toString();
        files.list().forEach(file -> files.write(file, folder, text -> text.replace("@PROJECT@", name)));
        SchemaFiles.write(folder.resolve(DefinitionSchemas.FOLDER));
        if (!options().quiet()) {
            output().line("Wrote " + folder.resolve(Project.FILE)
                    + " and the folders for inputs, dimensions and facts, and for editors the folder "
                    + DefinitionSchemas.FOLDER + ".");
            output().line("Next: describe an input, a dimension and a fact, then: zeitkammer -p " + folder + " check");
        }
        return ExitStatus.DONE;
    }
}
