package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Place;
import dev.zeitkammer.definition.Word;
import java.util.LinkedHashMap;
import java.util.List;

/** A piece of a YAML document with its place; scalars are the text that stands there. */
sealed interface Node {

    Place place();

    /** What this is, for messages. */
    String form();

    record Scalar(String text, boolean quoted, Place place) implements Node {

        /** Nothing was written after the colon. */
        boolean isAbsent() {
            return !quoted && text.isEmpty();
        }

        @Override
        public String form() {
            return isAbsent() ? "nothing" : "\"" + text + "\"";
        }
    }

    record Sequence(List<Node> items, Place place) implements Node {
        @Override
        public String form() {
            return "a list";
        }
    }

    record Mapping(LinkedHashMap<String, Entry> entries, Place place) implements Node {
        @Override
        public String form() {
            return "a group of keywords";
        }
    }

    /** One keyword of a mapping with its value; {@code keyword} carries the place of the keyword itself. */
    record Entry(Word keyword, Node value) {}
}
