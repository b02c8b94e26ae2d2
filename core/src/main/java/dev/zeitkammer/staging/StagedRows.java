package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The rows of a delivery, typed, in the scratch table {@link #TABLE}: the wanted columns beside {@code zk_row} (the row's
 * number, in order of files and lines), {@code zk_file} (the file's number, from 0), {@code zk_bad_column} and
 * {@code zk_bad_text} (the first value that its type cannot hold).
 *
 * @param columns the wanted columns with their types
 * @param inferred the types that the delivery itself decided
 * @param badLines lines that are no rows
 * @param statements the SQL that read them
 */
public record StagedRows(
        StagedFiles files,
        List<Column> columns,
        Map<String, SqlType> inferred,
        List<BadLine> badLines,
        List<String> statements) {

    /** The scratch table of staged rows. */
    public static final String TABLE = "zk_staged";

    /**
     * A line that could not be read as a row.
     *
     * @param record the record's number in the file, from 1, the header included
     * @param line the line on which it begins
     */
    public record BadLine(int file, long record, long line, String problem, String text) {}

    public StagedRows {
        columns = List.copyOf(columns);
        badLines = List.copyOf(badLines);
        statements = List.copyOf(statements);
    }

    /** The type of a staged column, whatever its case. */
    public Optional<SqlType> type(String column) {
        return columns.stream()
                .filter(known -> known.name().equalsIgnoreCase(column))
                .map(Column::type)
                .findFirst();
    }
}
