package dev.zeitkammer.definition;

import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** Reads {@code layout}. */
final class LayoutReader {

    private static final Pattern PARTITION = Pattern.compile(
            "(?:(?:year|month|day|hour) *\\( *(\\w+) *\\)|bucket *\\( *[1-9]\\d{0,4} *, *(\\w+) *\\)|(\\w+))");

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
                .filter(word -> !PARTITION.matcher(word.text()).matches())
                .forEach(word -> problems.add(
                        word.place(),
                        "\"partition\" is \"" + word + "\"; expected a column, or year, month, day or hour of one as in"
                                + " month(opened_on), or bucket(16, hut_key)"));
        return new Layout(partition, section.words("sort"));
    }

    /** The column that a partition goes by. */
    static String column(String partition) {
        Matcher form = PARTITION.matcher(partition);
        if (!form.matches()) {
            return partition;
        }
        return Stream.of(1, 2, 3)
                .map(form::group)
                .filter(group -> group != null)
                .findFirst()
                .orElse(partition);
    }
}
