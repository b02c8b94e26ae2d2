package dev.zeitkammer.definition.reading;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.dataformat.yaml.YAMLMapper;
import com.networknt.schema.JsonSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SpecVersion.VersionFlag;
import com.networknt.schema.ValidationMessage;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Project;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/** Validates definitions with their JSON Schema, beside their readers. */
public final class SchemaCheck {

    private static final YAMLMapper YAML = new YAMLMapper();
    private static final Map<String, JsonSchema> SCHEMAS = schemas();
    private static final Map<String, String> OF_FOLDERS =
            Map.of("inputs", "input.json", "dimensions", "dimension.json", "facts", "fact.json");

    private SchemaCheck() {}

    private static Map<String, JsonSchema> schemas() {
        Map<String, JsonSchema> schemas = new HashMap<>();
        JsonSchemaFactory factory = JsonSchemaFactory.getInstance(VersionFlag.V202012);
        DefinitionSchemas.all()
                .forEach((file, schema) ->
                        schemas.put(file, factory.getSchema(new ObjectMapper().<JsonNode>valueToTree(schema))));
        return schemas;
    }

    /**
     * Asserts that the schema refuses each file in which its reader found a fault of form, and no file in which it found nothing.
     */
    public static void agrees(Path folder, List<Problem> problems) {
        for (Path file : files(folder)) {
            String shown = folder.relativize(file).toString().replace('\\', '/');
            List<Problem> here = problems.stream()
                    .filter(problem -> problem.place().file().equals(shown))
                    .toList();
            Optional<JsonNode> document = document(file);
            if (document.isEmpty()) {
                continue;
            }
            Set<ValidationMessage> refused = refusals(schemaOf(shown), document.get());
            if (here.stream().anyMatch(problem -> problem.kind() == Problem.Kind.FORM)) {
                assertThat(refused)
                        .as("the schema refuses %s, as its reader does: %s", shown, here)
                        .isNotEmpty();
            } else if (here.isEmpty()) {
                assertThat(refused)
                        .as("the schema takes %s, as its reader does", shown)
                        .isEmpty();
            }
        }
    }

    /** What the schema of a kind of file refuses in a document. */
    static Set<ValidationMessage> refusals(String schema, JsonNode document) {
        return SCHEMAS.get(schema).validate(document);
    }

    /** A document; nothing where it is no YAML. */
    static Optional<JsonNode> document(String text) {
        try {
            return Optional.of(YAML.readTree(text)).filter(JsonNode::isObject);
        } catch (JsonProcessingException notYaml) {
            return Optional.empty();
        }
    }

    private static Optional<JsonNode> document(Path file) {
        try {
            return document(Files.readString(file));
        } catch (IOException notText) {
            return Optional.empty();
        }
    }

    private static String schemaOf(String file) {
        return file.equals(Project.FILE) ? "project.json" : OF_FOLDERS.get(file.replaceFirst("/.*", ""));
    }

    private static List<Path> files(Path folder) {
        try (Stream<Path> files = Files.walk(folder, 2)) {
            return files.filter(file -> file.toString().matches(".*\\.ya?ml") && Files.isRegularFile(file))
                    .filter(file -> schemaOf(folder.relativize(file).toString().replace('\\', '/')) != null)
                    .toList();
        } catch (IOException unreadable) {
            throw new UncheckedIOException(unreadable);
        }
    }
}
