package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Counted;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** No file is there, and rows of the input wait: they are tried alone. */
final class WaitedSource extends Source {

    private final Input input;
    private final Stager stager;
    private final String missing;
    private final List<WaitingRow> rows;

    /** @param missing which files are not there, in words */
    WaitedSource(Input input, Stager stager, String missing, List<WaitingRow> rows) {
        this.input = input;
        this.stager = stager;
        this.missing = missing;
        this.rows = List.copyOf(rows);
    }

    @Override
    public Input input() {
        return input;
    }

    @Override
    public boolean isDelivered() {
        return false;
    }

    @Override
    public List<String> header() {
        return rows.stream()
                .flatMap(row -> row.values().keySet().stream())
                .distinct()
                .toList();
    }

    @Override
    boolean hasEveryColumn() {
        return true;
    }

    @Override
    public String shown() {
        return "rows that wait";
    }

    @Override
    public long bytes() {
        return 0;
    }

    @Override
    public RowForm form(String file) {
        return new RowForm(RowForm.Kind.DELIMITED, "utf-8", "");
    }

    @Override
    boolean holds(String file) {
        return false;
    }

    @Override
    Optional<SqlType> type(String column) {
        return Optional.of(SqlType.VARCHAR);
    }

    @Override
    String query(Map<String, Optional<SqlType>> columns, Earlier earlier) {
        Dialect dialect = stager.dialect();
        String nothing = columns.keySet().stream()
                .map(name -> dialect.cast("null", SqlType.VARCHAR) + " as " + dialect.quote(name) + ", ")
                .collect(Collectors.joining());
        return "select " + nothing + "0 as zk_file where false";
    }

    @Override
    List<Unusable> unusable(String relation) {
        return List.of();
    }

    @Override
    List<Locator.Located> locate(String relation, Collection<Long> numbers) {
        return List.of();
    }

    @Override
    List<String> notes(String relation) {
        return List.of("no delivery: " + missing + "; " + Counted.rows(rows.size())
                + (rows.size() == 1 ? " that waits is" : " that wait are") + " tried again");
    }
}
