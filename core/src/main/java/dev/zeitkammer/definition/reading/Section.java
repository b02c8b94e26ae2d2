package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.definition.form.Form;
import dev.zeitkammer.definition.form.Shape;
import dev.zeitkammer.engine.SqlText;
import dev.zeitkammer.engine.SqlType;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * A mapping being read keyword by keyword. Everything that is not as expected becomes a problem, and reading goes on with an
 * empty value.
 */
final class Section {

    /** The keyword of assertions. */
    static final String ASSERT = "assert";

    private static final String BEFORE_ASSERT = "expect";

    private final Node.Mapping mapping;
    private final Problems problems;

    private Section(Node.Mapping mapping, Problems problems) {
        this.mapping = mapping;
        this.problems = problems;
    }

    /** A mapping in which only the keywords of a form may stand. */
    static Section of(Node.Mapping mapping, Form form, Problems problems) {
        List<String> valid = form.names();
        for (Node.Entry entry : mapping.entries().values()) {
            String found = entry.keyword().text();
            if (!valid.contains(found)) {
                problems.malformed(entry.keyword().place(), unknown(mapping, found, form.what(), valid));
            }
        }
        return new Section(mapping, problems);
    }

    /** A mapping whose keywords are names that the user chose. */
    static Section ofNames(Node.Mapping mapping, Problems problems) {
        return new Section(mapping, problems);
    }

    private static String unknown(Node.Mapping mapping, String found, String what, List<String> valid) {
        if (found.endsWith(")") && cutType(mapping)) {
            return "\"" + found
                    + "\" is the rest of a type that YAML cut at the comma; quote it: as: \"decimal(10,2)\"";
        }
        if (found.equals(BEFORE_ASSERT) && valid.contains(ASSERT)) {
            return "\"" + found + "\" is \"" + ASSERT + "\" now; what is below it stays as it is";
        }
        return "unknown keyword \"" + found + "\" in " + what + "; " + Nearest.hint(found, valid);
    }

    private static boolean cutType(Node.Mapping mapping) {
        return mapping.entries().values().stream()
                .anyMatch(entry -> entry.value() instanceof Node.Scalar scalar
                        && scalar.text().contains("(")
                        && !scalar.text().contains(")"));
    }

    Place place() {
        return mapping.place();
    }

    Problems problems() {
        return problems;
    }

    Collection<Node.Entry> entries() {
        return mapping.entries().values();
    }

    boolean has(String keyword) {
        return mapping.entries().containsKey(keyword);
    }

    Optional<Node> node(String keyword) {
        return Optional.ofNullable(mapping.entries().get(keyword)).map(Node.Entry::value);
    }

    Place placeOf(String keyword) {
        return Optional.ofNullable(mapping.entries().get(keyword))
                .map(entry -> entry.value().place())
                .orElse(place());
    }

    /** The text of a keyword, when it stands there. */
    Optional<Word> word(String keyword) {
        return node(keyword).flatMap(node -> wordOf(node, "\"" + keyword + "\""));
    }

    /** The SQL of a keyword, when it stands there: one expression, since it becomes part of a statement. */
    Optional<Word> sql(String keyword) {
        return word(keyword).filter(sql -> {
            boolean isStatement = keyword.equals("query");
            Optional<String> fault =
                    SqlText.fault(isStatement ? sql.text().strip().replaceFirst(";$", "") : sql.text());
            fault.ifPresent(why -> problems.add(sql.place(), "\"" + keyword + "\" is not one expression: " + why));
            return fault.isEmpty();
        });
    }

    /** The text of a keyword that must stand there. */
    Optional<Word> required(String keyword, String meaning) {
        if (!has(keyword)) {
            problems.malformed(place(), "\"" + keyword + "\" is missing; expected " + meaning);
            return Optional.empty();
        }
        return word(keyword);
    }

    Optional<Word> wordOf(Node node, String what) {
        if (node instanceof Node.Scalar scalar && !scalar.isAbsent()) {
            return Optional.of(new Word(scalar.text(), scalar.place()));
        }
        problems.malformed(node.place(), what + " is " + node.form() + "; expected a text");
        return Optional.empty();
    }

    /** One text or a list of texts. */
    List<Word> words(String keyword) {
        Optional<Node> node = node(keyword);
        if (node.isEmpty()) {
            return List.of();
        }
        Stream<Node> nodes = node.get() instanceof Node.Sequence list ? list.items().stream() : Stream.of(node.get());
        return nodes.flatMap(item -> wordOf(item, "\"" + keyword + "\"").stream())
                .toList();
    }

    /** Texts of a list in which an empty text is meant as one. */
    Optional<List<String>> texts(String keyword) {
        return node(keyword).map(node -> {
            List<String> texts = new ArrayList<>();
            for (Node item : node instanceof Node.Sequence list ? list.items() : List.of(node)) {
                if (item instanceof Node.Scalar scalar) {
                    texts.add(scalar.text());
                } else {
                    problems.malformed(item.place(), "\"" + keyword + "\" holds " + item.form() + "; expected a text");
                }
            }
            return List.copyOf(texts);
        });
    }

    Optional<Node.Mapping> mapping(String keyword) {
        return node(keyword).flatMap(node -> mappingOf(node, "\"" + keyword + "\""));
    }

    Optional<Node.Mapping> mappingOf(Node node, String what) {
        if (node instanceof Node.Mapping found) {
            return Optional.of(found);
        }
        problems.malformed(node.place(), what + " is " + node.form() + "; expected keywords below it");
        return Optional.empty();
    }

    /** One of an enum's words, written in kebab-case; the enum's first constant when the keyword does not stand there. */
    <E extends Enum<E>> E choice(String keyword, Class<E> type) {
        E[] constants = type.getEnumConstants();
        return word(keyword).flatMap(word -> choiceOf(word, type, keyword)).orElse(constants[0]);
    }

    <E extends Enum<E>> Optional<E> choiceOf(Word word, Class<E> type, String keyword) {
        List<String> valid = words(type);
        int index = valid.indexOf(word.text());
        if (index < 0) {
            problems.malformed(
                    word.place(),
                    "\"" + keyword + "\" cannot be \"" + word + "\"; " + Nearest.hint(word.text(), valid));
            return Optional.empty();
        }
        return Optional.of(type.getEnumConstants()[index]);
    }

    /** One of an enum's words, as the form of a keyword. */
    static Shape choice(Class<? extends Enum<?>> type) {
        return new Shape.Choice(words(type));
    }

    private static List<String> words(Class<? extends Enum<?>> type) {
        return Stream.of(type.getEnumConstants()).map(Section::kebab).toList();
    }

    /** An enum's constant as definitions write it. */
    static String kebab(Enum<?> constant) {
        return constant.name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    boolean flag(String keyword) {
        Optional<Word> word = word(keyword);
        if (word.isPresent() && !List.of("true", "false").contains(word.get().text())) {
            problems.malformed(
                    word.get().place(), "\"" + keyword + "\" cannot be \"" + word.get() + "\"; valid are: true, false");
        }
        return word.isPresent() && word.get().text().equals("true");
    }

    Optional<SqlType> type(String keyword) {
        return word(keyword).flatMap(this::typeOf);
    }

    Optional<SqlType> typeOf(Word word) {
        Optional<SqlType> type = SqlType.parse(word.text());
        if (type.isEmpty()) {
            String base = word.text().replaceAll("\\(.*", "").strip();
            String quoting = word.text().contains("(") && !word.text().contains(")")
                    ? "YAML cut it at the comma; quote it: \"decimal(10,2)\""
                    : Nearest.hint(base, SqlType.names());
            String message = "\"" + word + "\" is not a type; " + quoting;
            if (SharedForms.TYPE.pattern().matcher(word.text()).matches()) {
                problems.add(word.place(), message);
            } else {
                problems.malformed(word.place(), message);
            }
        }
        return type;
    }
}
