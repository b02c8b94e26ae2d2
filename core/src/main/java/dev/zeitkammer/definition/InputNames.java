package dev.zeitkammer.definition;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/** The inputs of a project by name, for the {@code from} of dimensions and facts. */
final class InputNames {

    private final Map<String, Input> inputs = new LinkedHashMap<>();
    private final InputReader reader;
    private final Problems problems;

    InputNames(InputReader reader, Problems problems) {
        this.reader = reader;
        this.problems = problems;
    }

    void add(Input input) {
        Input before = inputs.putIfAbsent(input.name().text(), input);
        if (before != null) {
            problems.add(
                    input.name().place(),
                    "there is already an input \"" + input.name() + "\", in "
                            + before.name().place());
        }
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
        Optional<Word> name = section.required("from", "an input's name, or an inline input");
        Optional<Input> found = name.map(word -> inputs.get(word.text()));
        if (name.isPresent() && found.isEmpty()) {
            problems.add(
                    name.get().place(),
                    "there is no input \"" + name.get() + "\"; "
                            + Nearest.hint(name.get().text(), inputs.keySet()));
        }
        return found;
    }
}
