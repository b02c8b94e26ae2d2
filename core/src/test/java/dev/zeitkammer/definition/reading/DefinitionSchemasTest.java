package dev.zeitkammer.definition.reading;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.networknt.schema.JsonSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SchemaId;
import com.networknt.schema.SchemaLocation;
import com.networknt.schema.SpecVersion.VersionFlag;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** JSON Schema beside the documentation; beside the readers it stands in every test, see {@link SchemaCheck}. */
class DefinitionSchemasTest {

    private static final Pattern BLOCK = Pattern.compile("```yaml\n(.*?)```", Pattern.DOTALL);
    private static final Map<String, String> BY_KEYWORD = Map.of(
            "project", "project.json", "input", "input.json", "dimension", "dimension.json", "fact", "fact.json");

    @Test
    void theDefinitionsOfTheManualAreValid() throws IOException {
        int found = 0;
        for (String page : List.of("definitions", "rules", "adopting", "history", "warehouses", "security")) {
            Matcher blocks = BLOCK.matcher(Files.readString(Path.of("../docs/" + page + ".md")));
            while (blocks.find()) {
                String text = blocks.group(1);
                String schema = BY_KEYWORD.get(text.replaceFirst("(?s):.*", ""));
                if (schema != null) {
                    assertThat(SchemaCheck.refusals(
                                    schema, SchemaCheck.document(text).orElseThrow()))
                            .as(text)
                            .isEmpty();
                    found++;
                }
            }
        }
        assertThat(found).as("whole definitions in the manual").isGreaterThan(8);
    }

    @Test
    void theDefinitionsOfTheDemoAreValid() throws IOException {
        Path demo = Path.of("../cli/src/main/resources/demo");
        try (Stream<Path> files = Files.walk(demo)) {
            List<Path> definitions =
                    files.filter(file -> file.toString().endsWith(".yaml")).toList();
            assertThat(definitions).hasSizeGreaterThan(8);
        }
        SchemaCheck.agrees(demo, List.of());
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "dimension.json|{dimension: hut, from: h, key: k, attributes: {a: type 2}}|true",
                "dimension.json|{dimension: hut, from: h, key: k, attributes: {a: type 4}}|false",
                "dimension.json|{dimension: hut, from: h, key: k}|false",
                "dimension.json|{dimension: c, kind: calendar, days: 2026-01-01..2026-12-31}|true",
                "dimension.json|{dimension: c, kind: calendar, days: 2026}|false",
                "dimension.json|{dimension: c, kind: calendar, grain: minute}|true",
                "dimension.json|{dimension: c, kind: calendar, grain: minute, days: 2026-01-01..2026-12-31}|false",
                "dimension.json|{dimension: c, kind: combination, attributes: [a, b]}|true",
                "dimension.json|{dimension: c, kind: combination, key: a, attributes: [a, b]}|false",
                "input.json|{input: huts, files: h.csv, columns: {beds: 'decimal(10,2)'}}|true",
                "input.json|{input: huts, files: h.csv, columns: {beds: whole}}|false",
                "input.json|{input: huts, files: h.csv, table: huts}|false",
                "fact.json|{fact: s, from: {files: s.csv}, append: true}|true",
                "fact.json|{fact: s, from: {file: s.csv}, append: true}|false",
                "project.json|{project: p, tidy: every 10 loads}|true",
                "project.json|{project: p, tidy: nightly}|false",
            })
    void whatIsValidIsKnown(String schema, String document, boolean valid) {
        assertThat(SchemaCheck.refusals(schema, SchemaCheck.document(document).orElseThrow())
                        .isEmpty())
                .isEqualTo(valid);
    }

    @Test
    void theSchemasAreThemselvesWhatTheirDialectWants() {
        JsonSchema meta =
                JsonSchemaFactory.getInstance(VersionFlag.V202012).getSchema(SchemaLocation.of(SchemaId.V202012));
        DefinitionSchemas.all()
                .forEach((file, schema) -> assertThat(meta.validate(new ObjectMapper().<JsonNode>valueToTree(schema)))
                        .as(file)
                        .isEmpty());
    }

    @Test
    void everyKeywordIsToldWithItsMeaning() {
        List<String> untold = new ArrayList<>();
        DefinitionSchemas.all().forEach((file, schema) -> {
            JsonNode forms = new ObjectMapper().valueToTree(schema).get("$defs");
            forms.properties()
                    .forEach(form -> form.getValue()
                            .get("properties")
                            .properties()
                            .forEach(keyword -> {
                                String about =
                                        keyword.getValue().get("description").asText();
                                if (about.length() < 8 || !about.matches("(?s).*[.;]")) {
                                    untold.add(file + " " + form.getKey() + "." + keyword.getKey());
                                }
                            }));
        });
        assertThat(untold).isEmpty();
    }
}
