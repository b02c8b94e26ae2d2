package dev.zeitkammer.definition;

import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * How the rows of a table lie in files, where the warehouse lets one say so.
 *
 * @param partition columns, or parts of them, whose values tell files apart: {@code hut_key}, {@code month(opened_on)}, {@code
 *     bucket(16, guest_key)}
 * @param sort columns by which the rows of a file are in order
 */
public record Layout(List<Word> partition, List<Word> sort) {

    private static final Pattern PARTITION = Pattern.compile(
            "(?:(?:year|month|day|hour) *\\( *(\\w+) *\\)|bucket *\\( *[1-9]\\d{0,4} *, *(\\w+) *\\)|(\\w+))");

    /** As the warehouse likes it. */
    public static final Layout NONE = new Layout(List.of(), List.of());

    /** The columns that it names. */
    public List<Word> columns() {
        return Stream.concat(partition.stream().map(word -> new Word(column(word.text()), word.place())), sort.stream())
                .toList();
    }

    public Layout {
        partition = List.copyOf(partition);
        sort = List.copyOf(sort);
    }

    /** Whether a text is a partition: a column, or a part of one. */
    public static boolean isPartition(String text) {
        return PARTITION.matcher(text).matches();
    }

    /** The column that a partition goes by. */
    private static String column(String partition) {
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
