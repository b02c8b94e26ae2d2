package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A delivery that can be read: each kind of input has its own. */
abstract class Source implements Delivery {

    /** The column of a line that is no row, where a source gives such lines among its rows. */
    static final String BAD_LINE = "zk_bad_line";

    private @Nullable Map<String, String> byName;

    /** Found in the time of one column, however many there are. */
    @Override
    public final Optional<String> column(String name) {
        Map<String, String> known = byName;
        if (known == null) {
            known = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
            for (String column : header()) {
                known.putIfAbsent(column, column);
            }
            byName = known;
        }
        return Optional.ofNullable(known.get(name)).or(() -> hasEveryColumn() ? Optional.of(name) : Optional.empty());
    }

    /** Whether it has no rows and names no columns, so that every column is as good as there. */
    boolean hasEveryColumn() {
        return false;
    }

    /** The type of a column; empty when its values are texts whose type the delivery decides. */
    abstract Optional<SqlType> type(String column);

    /**
     * A query of the stager that gives columns, each as a text or as its type, then {@code zk_file} and the {@link #extras}.
     *
     * @param columns the columns with the types they will have where that is known
     */
    abstract String query(Map<String, Optional<SqlType>> columns, Earlier earlier);

    /**
     * A reading that is faster where all values are written plainly, to be thrown away where they are not; empty where it is no
     * help. To be asked for behind {@link #query}.
     *
     * @param columns the columns with the types they will have
     */
    Optional<PlainReading> plainly(List<Column> columns) {
        return Optional.empty();
    }

    /** Whether the first rows of the query come without the work of all of them. */
    boolean isScanned() {
        return false;
    }

    /**
     * A query of the rows where they lie, with {@code zk_row}, for sources that can be read several times at the cost of a copy;
     * empty where rows must be kept, as when a value has to be converted.
     */
    Optional<String> inPlace(List<Column> columns) {
        return Optional.empty();
    }

    /**
     * A query of the warehouse for columns as they lie there, each of the {@link #type} that it has, then {@code zk_file}; empty for
     * rows that do not lie in the warehouse, or have to be looked at by the stager.
     */
    Optional<String> inWarehouse(Collection<String> columns) {
        return Optional.empty();
    }

    /** Its rows were staged in the warehouse, and not in the stager. */
    void stagedThere() {
        // most are never
    }

    /**
     * Makes sure that what was read in place is still what it was.
     *
     * @throws StagingException when it changed meanwhile
     */
    void unchanged() {
        // what was kept cannot change
    }

    /** Puts files into a form that the engine takes when it refused them as they are; false when that was done, or is no help. */
    boolean rewrite() {
        return false;
    }

    /** Removes what {@link #rewrite} made, where the rows could not be read after all. */
    void discard() {
        // most sources make nothing
    }

    /** Further columns of the query that are carried along. */
    List<String> extras() {
        return List.of();
    }

    /** Whether the query gives the first bad value of a row, as {@code zk_was_bad_column} and {@code zk_was_bad_text}. */
    boolean knowsBadValues() {
        return false;
    }

    /** Whether rows of it come from what messages call by this name: a file, or the source itself. */
    boolean holds(String file) {
        return shown().equals(file);
    }

    /** The form of its texts. */
    CsvForm csv() {
        return CsvForm.STANDARD;
    }

    /** The rows were read, and not yet named: what the engine remembers of the reading is looked at. */
    void wasRead(String relation) {
        // most remember nothing
    }

    /** What is no row, known after the rows were read into a relation. */
    abstract List<Unusable> unusable(String relation);

    /** Where rows of a relation stand and how they read, by their numbers, in their order. */
    abstract List<Locator.Located> locate(String relation, Collection<Long> rows);

    /** Whether every delivery has all rows that ever came and were not taken away, so that none needs to be staged again. */
    boolean remembers() {
        return false;
    }

    /** Rows of the inputs it is made of that waited. */
    List<WaitingRow> waited() {
        return List.of();
    }

    /** Rows of the inputs it is made of that wait, known after the rows were read. */
    List<WaitingRow> waiting() {
        return List.of();
    }

    /** SQL for the number of a row, over what was kept of it. */
    String rowNumber() {
        return "rowid";
    }

    /** What should be said about the rows that were read. */
    List<String> notes(String relation) {
        return List.of();
    }

    /** The SQL that read the inputs it is made of. */
    List<String> statements() {
        return List.of();
    }

    /** The types that the inputs it is made of decided, by input. */
    Map<String, Map<String, SqlType>> inferred() {
        return Map.of();
    }

    /** Row numbers as a list for SQL. */
    static String numbers(Collection<Long> rows) {
        return rows.stream().map(String::valueOf).collect(Collectors.joining(", ", "(", ")"));
    }

    static Optional<SqlType> typeOf(List<Column> columns, String name) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(name))
                .map(Column::type)
                .findFirst();
    }
}
