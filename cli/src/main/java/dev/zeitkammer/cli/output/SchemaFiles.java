package dev.zeitkammer.cli.output;

import dev.zeitkammer.definition.reading.DefinitionSchemas;
import dev.zeitkammer.engine.ZeitkammerException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;

/** Writes the JSON Schema of definitions as files, for editors. */
public final class SchemaFiles {

    private SchemaFiles() {}

    /** Writes one file for each kind of definition into a folder, over those that are there, and tells their names. */
    public static List<Path> write(Path folder) {
        Map<String, Map<String, Object>> schemas = DefinitionSchemas.all();
        try {
            Files.createDirectories(folder);
            for (Map.Entry<String, Map<String, Object>> schema : schemas.entrySet()) {
                Files.writeString(folder.resolve(schema.getKey()), Json.of(schema.getValue()) + "\n");
            }
        } catch (IOException refused) {
            throw new ZeitkammerException(
                    "Cannot write the schemas to " + folder + ": " + refused.getMessage(), refused);
        }
        return schemas.keySet().stream().map(folder::resolve).toList();
    }
}
