package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/**
 * The rows of a delivery, typed, in the scratch table {@link #TABLE}: the wanted columns beside {@code zk_row} (the row's
 * number, in order of files and lines), {@code zk_file} (the file's number, from 0), {@code zk_bad_column} and
 * {@code zk_bad_text} (the first value that its type cannot hold).
 */
public final class StagedRows {

    /** The scratch table of staged rows. */
    public static final String TABLE = "zk_staged";

    private final Source source;
    private final List<Column> columns;
    private final Map<String, SqlType> types = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
    private final Map<String, Map<String, SqlType>> inferred;
    private final List<Unusable> unusable;
    private final List<String> notes;
    private final List<String> statements;

    StagedRows(
            Source source,
            List<Column> columns,
            Map<String, Map<String, SqlType>> inferred,
            List<Unusable> unusable,
            List<String> notes,
            List<String> statements) {
        this.source = source;
        this.columns = List.copyOf(columns);
        this.columns.forEach(column -> types.putIfAbsent(column.name(), column.type()));
        this.inferred = Map.copyOf(inferred);
        this.unusable = List.copyOf(unusable);
        this.notes = List.copyOf(notes);
        this.statements = List.copyOf(statements);
    }

    Source source() {
        return source;
    }

    public Delivery delivery() {
        return source;
    }

    /** The wanted columns with their types. */
    public List<Column> columns() {
        return columns;
    }

    /** The types that the delivery itself decided, by input and column. */
    public Map<String, Map<String, SqlType>> inferred() {
        return inferred;
    }

    /**
     * Makes sure, once all steps have run, that they all saw the same rows.
     *
     * @throws StagingException when the delivery changed meanwhile
     */
    public void unchanged() {
        source.unchanged();
    }

    /** What of the delivery is no row. */
    public List<Unusable> unusable() {
        return unusable;
    }

    /** What the reader should know about the delivery. */
    public List<String> notes() {
        return notes;
    }

    /** The SQL that read them. */
    public List<String> statements() {
        return statements;
    }

    /** The type of a staged column, whatever its case. */
    public Optional<SqlType> type(String column) {
        return Optional.ofNullable(types.get(column));
    }
}
