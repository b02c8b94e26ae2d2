package dev.zeitkammer.cli.command;

import dev.zeitkammer.cli.output.Format;
import dev.zeitkammer.cli.output.SchemaFiles;
import dev.zeitkammer.definition.reading.DefinitionSchemas;
import java.nio.file.Path;
import java.util.List;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** {@code zeitkammer schema}. */
@Command(
        name = "schema",
        description = {
            "Writes the JSON Schema of definitions, by which editors complete keywords and mark faults.",
            "They are project.json, input.json, dimension.json and fact.json."
        })
final class SchemaCommand extends BaseCommand {

    @Option(
            names = "--to",
            paramLabel = "DIR",
            description = "The folder to write to (default: schema in the project's folder).")
    private @Nullable Path folder;

    @Override
    int run() {
        Path to = folder == null ? options().project().resolve(DefinitionSchemas.FOLDER) : folder;
        List<Path> files = SchemaFiles.write(to);
        if (!options().quiet() || format() != Format.TEXT) {
            files.forEach(file -> output().line("Wrote " + file));
        }
        if (!options().quiet()) {
            output().aside("An editor reads them where the first line of a file says, as in a dimension: "
                    + DefinitionSchemas.line("dimension.json"));
        }
        return ExitStatus.DONE;
    }
}
