package dev.zeitkammer.staging;

import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.WarehouseException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Parquet files: their columns have types of their own; rows are known by their numbers. */
final class ParquetFiles extends FileSource {

    private final List<Column> columns;
    private final List<Long> firstRows = new ArrayList<>();

    ParquetFiles(Input input, DeliveredFiles files, Stager stager) {
        super(input, files, stager);
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
            return stager.describe("select * from read_parquet(" + files.patterns(stager.dialect(), numbers)
                    + ", union_by_name = true, hive_partitioning = false)");
        } catch (WarehouseException unreadable) {
            throw new StagingException(
                    "Cannot read " + files.shown(numbers.get(0)) + ": "
                            + unreadable.getMessage().lines().findFirst().orElse(""),
                    unreadable);
        }
    }

    @Override
    public List<String> header() {
        return columns.stream().map(Column::name).map(Names::of).toList();
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
        return "select %s%s as zk_file\nfrom read_parquet(%s, union_by_name = true, hive_partitioning = false, filename = 'zk_filename')"
                .formatted(
                        wanted.keySet().stream().map(name -> typed(name) + ", ").collect(Collectors.joining()),
                        files.number(stager.dialect(), all()),
                        files.patterns(stager.dialect(), all()));
    }

    /** Rows are numbered in order of the files, and within a file as it holds them. */
    @Override
    Optional<String> inPlace(List<Column> wanted) {
        boolean fits = wanted.stream()
                .allMatch(column ->
                        type(column.name()).filter(column.type()::equals).isPresent());
        if (!fits || input.trim()) {
            return Optional.empty();
        }
        see();
        number();
        Dialect dialect = stager.dialect();
        String first = firstRows.size() == 1
                ? ""
                : " + " + firstRows + "[list_position(" + files.list(dialect, all()) + ", zk_filename)]";
        return Optional.of(
                "select file_row_number%s as zk_row, %s%s as zk_file, cast(null as varchar) as zk_bad_column,"
                                .formatted(
                                        first,
                                        wanted.stream()
                                                .map(column -> typed(column.name()) + ", ")
                                                .collect(Collectors.joining()),
                                        files.number(dialect, all()))
                        + " cast(null as varchar) as zk_bad_text\nfrom read_parquet("
                        + files.patterns(dialect, all())
                        + ", union_by_name = true, hive_partitioning = false, filename = 'zk_filename', file_row_number = true)");
    }

    private void number() {
        firstRows.clear();
        long next = 0;
        for (int file = 0; file < files.paths().size(); file++) {
            firstRows.add(next);
            next += stager.number("select num_rows from parquet_file_metadata("
                    + files.patterns(stager.dialect(), List.of(file)) + ")");
        }
    }

    @Override
    void unchanged() {
        unchangedSinceSeen();
    }

    private List<FileRows> byFile(String relation, Collection<Long> rows) {
        if (!isSeen()) {
            return FileRows.of(stager, relation, rows);
        }
        List<FileRows> byFile = new ArrayList<>();
        for (int file = 0; file < firstRows.size(); file++) {
            long first = firstRows.get(file);
            long end = file + 1 < firstRows.size() ? firstRows.get(file + 1) : Long.MAX_VALUE;
            TreeSet<Long> here = new TreeSet<>(new TreeSet<>(rows).subSet(first, end));
            if (!here.isEmpty()) {
                byFile.add(new FileRows(file, first, here));
            }
        }
        return byFile;
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
        for (FileRows here : byFile(relation, rows)) {
            located.addAll(stager.query(
                    "select file_row_number, cast(to_json({%s}) as varchar) from read_parquet(%s, file_row_number = true)"
                                    .formatted(members, files.patterns(stager.dialect(), List.of(here.file())))
                            + " where file_row_number + " + here.first() + " in " + numbers(here.wanted())
                            + " order by 1",
                    row -> new Locator.Located(
                            row.number(1) + here.first(), files.shown(here.file()), row.number(1) + 1, row.text(2))));
        }
        return located;
    }
}
