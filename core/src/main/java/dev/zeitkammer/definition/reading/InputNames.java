package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.DatabaseAddress;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The inputs of a project by name, for the {@code from} of dimensions and facts, and for inputs made of others. */
final class InputNames {

    private record Document(Word name, Node.Mapping mapping) {}

    private final Map<String, Document> documents = new LinkedHashMap<>();
    private final Map<String, Optional<Input>> read = new LinkedHashMap<>();
    private final Deque<String> underway = new ArrayDeque<>();
    private final InputReader reader;
    private final Problems problems;

    InputNames(Problems problems, Map<String, DatabaseAddress> databases, boolean ownOnly) {
        this.problems = problems;
        this.reader = new InputReader(problems, databases, this, ownOnly);
    }

    /** Adds the file of an input; it is read when its name is first asked for. */
    void add(Node.Mapping mapping) {
        InputReader.nameOf(mapping, problems).ifPresent(name -> {
            Document before = documents.putIfAbsent(name.text(), new Document(name, mapping));
            if (before != null) {
                problems.add(
                        name.place(),
                        "there is already an input \"" + name + "\", in "
                                + before.name().place());
            }
        });
    }

    /** Every input that has a file of its own. */
    List<Input> all() {
        return documents.values().stream()
                .flatMap(document -> named(document.name()).stream())
                .toList();
    }

    boolean isKnown(String name) {
        return documents.containsKey(name);
    }

    /** An input by its name; a problem where there is none, or where it is made of itself. */
    Optional<Input> named(Word name) {
        if (!isKnown(name.text())) {
            problems.add(
                    name.place(),
                    "there is no input \"" + name + "\"; " + Nearest.hint(name.text(), documents.keySet()));
            return Optional.empty();
        }
        if (underway.contains(name.text())) {
            List<String> circle = new ArrayList<>(underway);
            circle.add(name.text());
            problems.add(name.place(), "inputs are made of each other in a circle: " + String.join(" - ", circle));
            return Optional.empty();
        }
        if (!read.containsKey(name.text())) {
            underway.addLast(name.text());
            Document document = documents.get(name.text());
            Optional<Input> input = reader.read(document.mapping(), document.name());
            underway.removeLast();
            read.put(name.text(), input);
        }
        return read.get(name.text());
    }

    /** An input that a definition writes inline under a keyword of its own. */
    Optional<Input> inline(Node.Mapping mapping, Word owner) {
        return reader.readInline(mapping, owner);
    }

    /** The input that a definition's {@code from} names or writes inline. */
    Optional<Input> from(Section section, Word owner) {
        if (section.node("from").orElse(null) instanceof Node.Mapping inline) {
            return reader.readInline(inline, new Word(owner.text(), inline.place()));
        }
        return section.required("from", "an input's name, or an inline input").flatMap(this::named);
    }
}
