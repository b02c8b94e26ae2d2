package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.form.JsonSchema;
import dev.zeitkammer.definition.form.JsonSchema.Variant;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** JSON Schema for the files of a project, made from the keywords that their readers know. */
public final class DefinitionSchemas {

    /** The folder of a project in which they are looked for. */
    public static final String FOLDER = "schema";

    private DefinitionSchemas() {}

    /** The first line of a definition in a subfolder, by which editors find its schema. */
    public static String line(String schema) {
        return "# yaml-language-server: $schema=../" + FOLDER + "/" + schema;
    }

    /** That line with its end, where the project has the schema; else nothing. */
    public static String head(Path project, String schema) {
        return Files.isRegularFile(project.resolve(FOLDER).resolve(schema)) ? line(schema) + "\n" : "";
    }

    /** The schemas by the names of their files: project.json, input.json, dimension.json and fact.json. */
    public static Map<String, Map<String, Object>> all() {
        Map<String, Map<String, Object>> schemas = new LinkedHashMap<>();
        schemas.put("project.json", JsonSchema.of(Project.FILE, ProjectForms.PROJECT));
        schemas.put("input.json", JsonSchema.of("An input", InputForms.INPUT));
        schemas.put(
                "dimension.json",
                JsonSchema.of(
                        "A dimension",
                        List.of(
                                new Variant(Map.of("kind", "calendar", "grain", "minute"), DimensionForms.MINUTES),
                                new Variant(Map.of("kind", "calendar"), DimensionForms.CALENDAR),
                                new Variant(Map.of("kind", "combination"), DimensionForms.COMBINATION),
                                new Variant(Map.of("others-load", ""), DimensionForms.OTHERS)),
                        DimensionForms.MEMBERS));
        schemas.put("fact.json", JsonSchema.of("A fact", FactForms.FACT));
        return schemas;
    }
}
