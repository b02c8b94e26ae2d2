package dev.zeitkammer.definition;

import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Optional;

/**
 * What is waiting to be loaded.
 *
 * @param files a path or glob, relative to the project; {@code {date}} stands for the load date
 * @param columns the columns whose types inference should not decide
 * @param where SQL over the staged columns; rows for which it does not hold are not staged
 * @param trim whether spaces around texts are taken off and empty texts become null
 * @param extract whether a delivery holds everything or only what changed
 * @param required whether a missing file is an error
 * @param newer by which column only what is new is staged
 */
public record Input(
        Word name,
        Word files,
        CsvForm csv,
        List<ListedColumn> columns,
        Optional<Word> where,
        boolean trim,
        Extract extract,
        boolean required,
        Optional<Newer> newer) {

    /**
     * Only rows beyond the greatest value of a running column that has been loaded are staged.
     *
     * @param column a staged column of numbers, dates or timestamps
     * @param overlap how far before that value to read again: a number, or a time such as 2 days
     */
    public record Newer(Word column, Optional<Word> overlap) {}

    /** What a delivery holds. */
    public enum Extract {
        CHANGES,
        FULL
    }

    /** A column that the input lists with its type. */
    public record ListedColumn(Word name, SqlType type) {}

    public Input {
        columns = List.copyOf(columns);
    }
}
