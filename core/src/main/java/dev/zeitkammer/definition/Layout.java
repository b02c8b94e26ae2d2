package dev.zeitkammer.definition;

import java.util.List;
import java.util.stream.Stream;

/**
 * How the rows of a table lie in files, where the warehouse lets one say so.
 *
 * @param partition columns, or parts of them, whose values tell files apart: {@code hut_key}, {@code month(opened_on)}, {@code
 *     bucket(16, guest_key)}
 * @param sort columns by which the rows of a file are in order
 */
public record Layout(List<Word> partition, List<Word> sort) {

    /** As the warehouse likes it. */
    public static final Layout NONE = new Layout(List.of(), List.of());

    /** The columns that it names. */
    public List<Word> columns() {
        return Stream.concat(
                        partition.stream().map(word -> new Word(LayoutReader.column(word.text()), word.place())),
                        sort.stream())
                .toList();
    }

    public Layout {
        partition = List.copyOf(partition);
        sort = List.copyOf(sort);
    }
}
