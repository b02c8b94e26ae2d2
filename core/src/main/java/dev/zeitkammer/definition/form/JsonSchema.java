package dev.zeitkammer.definition.form;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * Writes forms as JSON Schema (draft 2020-12), as values that any JSON library writes. Each form is told once, below {@code $defs}.
 */
public final class JsonSchema {

    private static final String DIALECT = "https://json-schema.org/draft/2020-12/schema";
    private static final List<String> SCALARS = List.of("string", "number", "boolean");

    private final Map<String, Object> forms = new TreeMap<>();

    private JsonSchema() {}

    /** The schema of a document that is one group of keywords. */
    public static Map<String, Object> of(String title, Form form) {
        return new JsonSchema().document(title, writer -> writer.reference(form));
    }

    /**
     * A form that a document has where some of its keywords have these values.
     *
     * @param when the value of each keyword that decides; an empty one: whatever it says
     */
    public record Variant(Map<String, String> when, Form form) {

        public Variant {
            when = Map.copyOf(when);
        }
    }

    /**
     * The schema of a document whose form depends on the values of keywords.
     *
     * @param variants the first whose values stand there counts
     * @param otherwise the form where none of them does
     */
    public static Map<String, Object> of(String title, List<Variant> variants, Form otherwise) {
        return new JsonSchema().document(title, writer -> writer.choice(variants, otherwise));
    }

    private interface Body {
        Map<String, Object> of(JsonSchema writer);
    }

    private Map<String, Object> document(String title, Body body) {
        Map<String, Object> written = body.of(this);
        Map<String, Object> schema = new LinkedHashMap<>();
        schema.put("$schema", DIALECT);
        schema.put("title", title);
        schema.putAll(written);
        schema.put("$defs", forms);
        return schema;
    }

    private Map<String, Object> choice(List<Variant> variants, Form otherwise) {
        if (variants.isEmpty()) {
            return reference(otherwise);
        }
        Variant first = variants.get(0);
        Map<String, Object> values = new TreeMap<>();
        first.when()
                .forEach((keyword, value) -> values.put(keyword, value.isEmpty() ? Map.of() : Map.of("const", value)));
        Map<String, Object> schema = new LinkedHashMap<>();
        schema.put("if", Map.of("properties", values, "required", List.copyOf(values.keySet())));
        schema.put("then", reference(first.form()));
        schema.put("else", choice(variants.subList(1, variants.size()), otherwise));
        return schema;
    }

    private Map<String, Object> reference(Form form) {
        if (!forms.containsKey(form.name())) {
            forms.put(form.name(), Map.of());
            forms.put(form.name(), group(form));
        }
        return new LinkedHashMap<>(Map.of("$ref", "#/$defs/" + form.name()));
    }

    private Map<String, Object> group(Form form) {
        Map<String, Object> schema = keywords(form.keywords());
        schema.put("additionalProperties", false);
        List<Object> conditions = new ArrayList<>();
        form.alternatives().forEach(names -> conditions.add(Map.of("oneOf", each(names))));
        form.least().forEach(names -> conditions.add(Map.of("anyOf", each(names))));
        if (!conditions.isEmpty()) {
            schema.put("allOf", conditions);
        }
        if (!form.together().isEmpty()) {
            Map<String, Object> together = new LinkedHashMap<>();
            form.together().forEach(name -> together.put(name, form.together()));
            schema.put("dependentRequired", together);
        }
        return schema;
    }

    private Map<String, Object> keywords(List<Keyword> keywords) {
        Map<String, Object> properties = new LinkedHashMap<>();
        for (Keyword keyword : keywords) {
            Map<String, Object> property = shape(keyword.shape());
            property.put("description", keyword.about());
            properties.put(keyword.name(), property);
        }
        Map<String, Object> schema = new LinkedHashMap<>();
        schema.put("type", "object");
        schema.put("properties", properties);
        List<String> required =
                keywords.stream().filter(Keyword::isRequired).map(Keyword::name).toList();
        if (!required.isEmpty()) {
            schema.put("required", required);
        }
        return schema;
    }

    private static List<Object> each(List<String> names) {
        return names.stream()
                .map(name -> (Object) Map.of("required", List.of(name)))
                .toList();
    }

    private Map<String, Object> shape(Shape shape) {
        Map<String, Object> schema = new LinkedHashMap<>();
        if (shape instanceof Shape.Text) {
            schema.put("type", SCALARS);
        } else if (shape instanceof Shape.Matching matching) {
            schema.put("type", "string");
            matching.number().ifPresent(range -> {
                schema.put("type", List.of("string", range.isWhole() ? "integer" : "number"));
                schema.put("minimum", range.least());
                schema.put("maximum", range.greatest());
            });
            schema.put("pattern", "^(?:" + matching.pattern().pattern() + ")$");
            schema.put("examples", matching.examples());
        } else if (shape instanceof Shape.Choice choice) {
            schema.put("enum", choice.words());
        } else if (shape instanceof Shape.Suggested suggested) {
            schema.put("anyOf", List.of(Map.of("enum", suggested.words()), Map.of("type", SCALARS)));
        } else if (shape instanceof Shape.Flag) {
            schema.put("enum", List.of(true, false, "true", "false"));
        } else if (shape instanceof Shape.Nothing) {
            schema.put("type", "null");
        } else if (shape instanceof Shape.Several several) {
            schema.put("type", "array");
            schema.put("items", shape(several.each()));
            if (!several.mayBeEmpty()) {
                schema.put("minItems", 1);
            }
        } else if (shape instanceof Shape.Names names) {
            schema.putAll(keywords(names.known()));
            schema.put("additionalProperties", shape(names.each()));
        } else if (shape instanceof Shape.Group group) {
            schema.putAll(reference(group.form()));
        } else if (shape instanceof Shape.Either either) {
            schema.put("anyOf", either.shapes().stream().map(this::shape).toList());
        }
        return schema;
    }
}
