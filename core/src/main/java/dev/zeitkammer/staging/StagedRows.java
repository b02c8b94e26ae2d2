package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * The rows of a delivery, typed, in the scratch table {@link #TABLE}: the wanted columns beside {@code zk_row} (the row's
 * number, in order of files and lines), {@code zk_file} (the file's number, from 0), {@code zk_bad_column} and
 * {@code zk_bad_text} (the first value that its type cannot hold).
 */
public final class StagedRows {

    /** The scratch table of staged rows. */
    public static final String TABLE = "zk_staged";

    private final Stager stager;
    private final Source source;
    private final List<Column> columns;
    private final Map<String, SqlType> types = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
    private final Map<String, Map<String, SqlType>> inferred;
    private final List<Unusable> unusable;
    private final List<String> notes;
    private final List<String> statements;
    private final WaitedRows waited;

    StagedRows(
            Stager stager,
            Source source,
            List<Column> columns,
            Map<String, Map<String, SqlType>> inferred,
            List<Unusable> unusable,
            List<String> notes,
            List<String> statements,
            WaitedRows waited) {
        this.stager = stager;
        this.source = source;
        this.columns = List.copyOf(columns);
        this.columns.forEach(column -> types.putIfAbsent(column.name(), column.type()));
        this.inferred = Map.copyOf(inferred);
        this.unusable = List.copyOf(unusable);
        this.notes = List.copyOf(notes);
        this.statements = List.copyOf(statements);
        this.waited = waited;
    }

    /** The connection that has them first: the warehouse's own where they lie there. */
    Stager stager() {
        return stager;
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

    /** The rows that waited and are staged again, those of a join's first input too. */
    public List<WaitingRow> waited() {
        List<WaitingRow> all = new ArrayList<>(waited.all());
        all.addAll(source.waited());
        return all;
    }

    /** Whether rows that waited are among them. */
    public boolean hasWaited() {
        return !waited().isEmpty();
    }

    /** Rows that wait before they are staged: those of a join's first input that lack a partner. */
    public List<WaitingRow> waiting() {
        return source.waiting();
    }

    /** Whether every row of the delivery is among them, so that what is not there was not delivered. */
    public boolean areComplete() {
        return unusable.isEmpty() && waiting().isEmpty();
    }

    /** For what a row waits. */
    public record Waits(
            String reason,
            @Nullable String column,
            @Nullable String value) {}

    /** The rows of a delivery that wait, by their numbers, as they will be kept. */
    public List<WaitingRow> waiting(Map<Long, Waits> reasons) {
        return waiting(reasons, TABLE);
    }

    List<WaitingRow> waiting(Map<Long, Waits> reasons, String relation) {
        if (reasons.isEmpty()) {
            return List.of();
        }
        Map<Long, Map<String, @Nullable String>> texts = WaitedRows.texts(stager, relation, columns, reasons.keySet());
        List<WaitingRow> waiting = Locator.locate(this, relation, reasons.keySet()).stream()
                .map(place -> waiting(place, reasons.get(place.row()), texts.get(place.row())))
                .sorted(Comparator.comparing(WaitingRow::row))
                .toList();
        return source.remembers() ? waited.remembered(waiting) : waiting;
    }

    private WaitingRow waiting(Locator.Located place, Waits why, Map<String, @Nullable String> values) {
        long since = waited.since(place.row());
        return new WaitingRow(
                waited.input(),
                place.row(),
                since,
                why.reason(),
                why.column(),
                why.value(),
                place.file(),
                place.line(),
                place.text(),
                values);
    }

    WaitedRows ofBooks() {
        return waited;
    }

    /** The form of a file of the delivery; empty for one of an earlier one, in which a row stood that waited. */
    public Optional<RowForm> form(String file) {
        return source.holds(file) || waited().isEmpty() ? Optional.of(source.form(file)) : Optional.empty();
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
