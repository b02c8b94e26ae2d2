package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Parquet files: their columns have types of their own; rows are known by their numbers. */
final class ParquetFiles extends Source {

    private final Input input;
    private final DeliveredFiles files;
    private final Warehouse stager;
    private final List<Column> columns;

    ParquetFiles(Input input, DeliveredFiles files, Warehouse stager) {
        this.input = input;
        this.files = files;
        this.stager = stager;
        List<List<String>> headers = new ArrayList<>();
        for (int number = 0; number < files.paths().size(); number++) {
            headers.add(columns(List.of(number)).stream().map(Column::name).toList());
        }
        files.sameColumns(headers);
        this.columns = columns(all());
    }

    private List<Integer> all() {
        return IntStream.range(0, files.paths().size()).boxed().toList();
    }

    private List<Column> columns(List<Integer> numbers) {
        try {
            return stager.describe(
                    "select * from read_parquet(" + files.list(stager.dialect(), numbers) + ", union_by_name = true)");
        } catch (WarehouseException unreadable) {
            throw new StagingException(
                    "Cannot read " + files.shown(numbers.get(0)) + ": "
                            + unreadable.getMessage().lines().findFirst().orElse(""),
                    unreadable);
        }
    }

    @Override
    public Input input() {
        return input;
    }

    @Override
    public List<String> header() {
        return columns.stream().map(Column::name).map(Names::of).toList();
    }

    @Override
    public long bytes() {
        return files.bytes();
    }

    @Override
    public String shown() {
        return files.shown();
    }

    @Override
    boolean holds(String file) {
        return files.hold(file);
    }

    @Override
    public RowForm form(String file) {
        return new RowForm(RowForm.Kind.PARQUET, "utf-8", "");
    }

    @Override
    Optional<SqlType> type(String column) {
        return typeOf(columns, column);
    }

    @Override
    String query(Map<String, Optional<SqlType>> wanted, Earlier earlier) {
        return "select %s%s as zk_file\nfrom read_parquet(%s, union_by_name = true, filename = 'zk_filename')"
                .formatted(
                        wanted.keySet().stream().map(name -> typed(name) + ", ").collect(Collectors.joining()),
                        files.number(stager.dialect(), all()),
                        files.list(stager.dialect(), all()));
    }

    private String typed(String name) {
        String quoted = stager.dialect().quote(name);
        return stager.dialect().cast(quoted, type(name).orElse(SqlType.VARCHAR)) + " as " + quoted;
    }

    @Override
    List<Unusable> unusable(String relation) {
        return List.of();
    }

    @Override
    List<Locator.Located> locate(String relation, Collection<Long> rows) {
        List<Locator.Located> located = new ArrayList<>();
        String members = stager.dialect()
                .list(
                        columns,
                        column -> stager.dialect().text(column.name()) + ": "
                                + stager.dialect().quote(column.name()));
        for (FileRows here : FileRows.of(stager, relation, rows)) {
            located.addAll(stager.query(
                    "select file_row_number, cast(to_json({%s}) as varchar) from read_parquet(%s, file_row_number = true)"
                                    .formatted(members, files.list(stager.dialect(), List.of(here.file())))
                            + " where file_row_number + " + here.first() + " in " + numbers(here.wanted())
                            + " order by 1",
                    row -> new Locator.Located(
                            row.number(1) + here.first(), files.shown(here.file()), row.number(1) + 1, row.text(2))));
        }
        return located;
    }
}
