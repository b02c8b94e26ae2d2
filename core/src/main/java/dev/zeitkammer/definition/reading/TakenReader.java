package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Described;
import dev.zeitkammer.definition.Taken;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.SqlText;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Reads columns that are named in a list, when they have their staged names, or with what each is taken from: a staged column,
 * or an expression over the staged columns.
 */
final class TakenReader {

    /**
     * @param columns the columns of the table, in order
     * @param taken what those are taken from that are not staged under their names
     * @param described what is said of them beside
     */
    record Columns(List<Word> columns, Taken taken, Described described) {}

    private TakenReader() {}

    static Columns read(Section section, String keyword) {
        Optional<Node> node = section.node(keyword);
        if (!(node.orElse(null) instanceof Node.Mapping mapping)) {
            return new Columns(section.words(keyword), Taken.AS_NAMED, Described.NOTHING);
        }
        List<Word> columns = new ArrayList<>();
        Map<String, Word> from = new LinkedHashMap<>();
        Described described = Described.NOTHING;
        for (Node.Entry entry : mapping.entries().values()) {
            columns.add(entry.keyword());
            String name = entry.keyword().text();
            if (entry.value() instanceof Node.Mapping details) {
                Section each = Section.of(details, SharedForms.TAKEN_COLUMN, section.problems());
                each.word("take").filter(word -> isOne(section, entry, word)).ifPresent(word -> from.put(name, word));
                described = described.with(name, each.word("was"), each.word("about"));
            } else {
                value(section, entry).ifPresent(word -> from.put(name, word));
            }
        }
        return new Columns(columns, new Taken(from), described);
    }

    /** What stands behind a column; nothing behind it means the staged column of its name. */
    private static Optional<Word> value(Section section, Node.Entry entry) {
        if (entry.value() instanceof Node.Scalar scalar && scalar.isAbsent()) {
            return Optional.empty();
        }
        return section.wordOf(entry.value(), "\"" + entry.keyword() + "\"").filter(word -> isOne(section, entry, word));
    }

    private static boolean isOne(Section section, Node.Entry entry, Word word) {
        Optional<String> fault = SqlText.fault(word.text());
        fault.ifPresent(why -> section.problems()
                .add(
                        word.place(),
                        "what \"" + entry.keyword() + "\" is taken from is no staged column and not one expression: "
                                + why));
        return fault.isEmpty();
    }
}
