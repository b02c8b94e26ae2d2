package dev.zeitkammer.definition.reading;

import dev.zeitkammer.definition.Layout;
import dev.zeitkammer.definition.Problems;
import dev.zeitkammer.definition.Word;
import java.util.List;

/** Reads {@code layout}. */
final class LayoutReader {

    private final Problems problems;

    LayoutReader(Problems problems) {
        this.problems = problems;
    }

    Layout read(Section of) {
        return of.mapping("layout").map(this::layout).orElse(Layout.NONE);
    }

    private Layout layout(Node.Mapping mapping) {
        Section section = Section.of(mapping, SharedForms.LAYOUT, problems);
        List<Word> partition = section.words("partition");
        partition.stream()
                .filter(word -> !Layout.isPartition(word.text()))
                .forEach(word -> problems.add(
                        word.place(),
                        "\"partition\" is \"" + word + "\"; expected a column, or year, month, day or hour of one as in"
                                + " month(opened_on), or bucket(16, hut_key)"));
        return new Layout(partition, section.words("sort"));
    }
}
