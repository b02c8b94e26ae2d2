package dev.zeitkammer.staging;

import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.definition.Input.ListedColumn;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.staging.StagedFiles.StagedFile;
import dev.zeitkammer.staging.StagedRows.BadLine;
import java.io.IOException;
import java.io.Reader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** Stages delimited files: finds them, checks their headers, reads and converts their rows. */
public final class FileStaging {

    private static final String RAW = "zk_raw";
    private static final String READ = "zk_read";

    private final Warehouse warehouse;
    private final Warehouse stager;
    private final Path folder;

    public FileStaging(Warehouse warehouse, Path folder) {
        this.warehouse = warehouse;
        this.stager = warehouse.stager();
        this.folder = folder;
    }

    /**
     * The delivery of a load date; empty when no file matches.
     *
     * @throws StagingException when a file cannot be read, or is required and missing
     * @throws DefinitionException when a column that the input lists is not there
     */
    public Optional<StagedFiles> delivery(Input input, LoadDate date) {
        List<Path> files = new FileFinder(folder).of(input, date);
        if (files.isEmpty() && input.required()) {
            throw new StagingException("There is no delivery: no file matches "
                    + date.in(input.files().text()) + ", and the input \"" + input.name()
                    + "\" requires one");
        }
        return opened(input, files);
    }

    /** The newest delivery there is, for looking at what a delivery is like. */
    public Optional<StagedFiles> newest(Input input) {
        return opened(input, new FileFinder(folder).newest(input));
    }

    private Optional<StagedFiles> opened(Input input, List<Path> paths) {
        if (paths.isEmpty()) {
            return Optional.empty();
        }
        List<StagedFile> files = new ArrayList<>();
        StagedFiles first = new StagedFiles(input, folder, List.of(new StagedFile(paths.get(0), List.of())));
        for (Path path : paths) {
            files.add(new StagedFile(path, header(first, path)));
        }
        sameColumns(first, files);
        StagedFiles delivery = new StagedFiles(input, folder, files);
        listedColumnsAreThere(delivery);
        return Optional.of(delivery);
    }

    private List<String> header(StagedFiles delivery, Path file) {
        String shown = delivery.shown(file);
        if (!Files.isReadable(file)) {
            throw new StagingException("Cannot read " + shown + ": no permission");
        }
        if (Files.isDirectory(file)) {
            throw new StagingException("Cannot read " + shown + ": it is a folder; add a file pattern, such as *.csv");
        }
        String encoding = delivery.input().csv().encoding();
        try (Reader reader = TextFiles.open(file, encoding)) {
            RecordScanner records =
                    new RecordScanner(reader, delivery.delimiter().charAt(0));
            if (Files.size(file) == 0 || !records.next()) {
                throw new StagingException("Cannot read " + shown
                        + ": the file is empty; expected a header line with the names of the columns");
            }
            if (TextFiles.isBinary(file, encoding)) {
                throw new StagingException("Cannot read " + shown + ":1: this is not text in " + encoding
                        + "; expected delimited text with a header line");
            }
            if (records.isUnclosed()) {
                throw unclosed(shown, records.line());
            }
            return distinct(
                    shown, TextFiles.fields(records.text(), delivery.delimiter().charAt(0)));
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + shown + ": " + unreadable.getMessage(), unreadable);
        }
    }

    private static List<String> distinct(String shown, List<String> header) {
        List<String> seen = new ArrayList<>();
        for (String name : header) {
            if (name.isEmpty()) {
                throw new StagingException(
                        "Cannot read " + shown + ":1: column " + (seen.size() + 1) + " has no name in the header line");
            }
            if (seen.stream().anyMatch(name::equalsIgnoreCase)) {
                throw new StagingException(
                        "Cannot read " + shown + ":1: two columns are named \"" + name + "\" in the header line");
            }
            seen.add(name);
        }
        return header;
    }

    private static void sameColumns(StagedFiles shownBy, List<StagedFile> files) {
        List<String> expected = folded(files.get(0).header());
        for (StagedFile file : files) {
            if (!folded(file.header()).equals(expected)) {
                throw new StagingException("Cannot stage " + shownBy.shown(file.path()) + ": its columns ("
                        + String.join(", ", file.header()) + ") are not those of "
                        + shownBy.shown(files.get(0).path()) + " ("
                        + String.join(", ", files.get(0).header()) + ")");
            }
        }
    }

    private static List<String> folded(List<String> names) {
        return names.stream()
                .map(name -> name.toLowerCase(Locale.ROOT))
                .sorted()
                .toList();
    }

    private static void listedColumnsAreThere(StagedFiles delivery) {
        List<Problem> problems = delivery.input().columns().stream()
                .map(ListedColumn::name)
                .filter(name -> delivery.column(name.text()).isEmpty())
                .map(name -> new Problem(
                        name.place(),
                        "the column \"" + name + "\" is listed and not staged: " + delivery.shown()
                                + " has no such column; " + Nearest.hint(name.text(), delivery.header())))
                .toList();
        if (!problems.isEmpty()) {
            throw new DefinitionException(problems);
        }
    }

    /**
     * Reads the wanted columns of a delivery into {@link StagedRows#TABLE}.
     *
     * @param remembered types that an earlier delivery decided
     * @throws StagingException when a file is not what it seems; nothing is staged then
     */
    public StagedRows stage(StagedFiles delivery, Wanted wanted, Map<String, SqlType> remembered) {
        Conversion conversion =
                new Conversion(stager.dialect(), delivery.input().csv());
        Map<String, Optional<SqlType>> columns = wanted.inFileOrder();
        columns.replaceAll((name, type) -> type.or(() -> Optional.ofNullable(remembered.get(name))));
        List<String> undecided = columns.keySet().stream()
                .filter(name -> columns.get(name).isEmpty())
                .toList();
        List<String> statements = new ArrayList<>();
        dropRejects();
        String source = source(delivery, List.copyOf(columns.keySet()));
        if (!undecided.isEmpty()) {
            read(delivery, stager.dialect().keep(RAW, source), statements);
            source = "select * from " + RAW;
        }
        Map<String, SqlType> inferred = new Inference(stager, conversion).of(RAW, undecided, wanted.moments());
        List<Column> typed = columns.entrySet().stream()
                .map(entry -> new Column(
                        entry.getKey(),
                        entry.getValue().orElseGet(() -> inferred.getOrDefault(entry.getKey(), SqlType.VARCHAR))))
                .toList();
        read(
                delivery,
                stager.dialect()
                        .keep(
                                READ,
                                converted(
                                        source,
                                        typed,
                                        conversion,
                                        delivery.input().trim())),
                statements);
        read(delivery, stager.dialect().name(StagedRows.TABLE, "select rowid as zk_row, * from " + READ), statements);
        stager.execute(stager.dialect().drop(RAW));
        List<BadLine> badLines = badLines(delivery);
        warehouse.receive(StagedRows.TABLE);
        return new StagedRows(delivery, typed, inferred, badLines, statements);
    }

    private void read(StagedFiles delivery, String sql, List<String> statements) {
        statements.add(sql);
        try {
            stager.execute(sql);
        } catch (WarehouseException failed) {
            throw new StagingException(
                    "Cannot read " + delivery.shown() + ": "
                            + failed.getMessage().lines().findFirst().orElse(""),
                    failed);
        }
    }

    private void dropRejects() {
        stager.execute(stager.dialect().drop("zk_rejects"));
        stager.execute(stager.dialect().drop("zk_reject_scans"));
    }

    /** The query that reads the files as texts; files with another order of columns are read on their own. */
    private String source(StagedFiles delivery, List<String> columns) {
        Map<List<String>, List<Integer>> byHeader = new LinkedHashMap<>();
        for (int index = 0; index < delivery.files().size(); index++) {
            byHeader.computeIfAbsent(folded(delivery.files().get(index)), header -> new ArrayList<>())
                    .add(index);
        }
        return byHeader.values().stream()
                .map(files -> scan(delivery, files, columns))
                .collect(Collectors.joining("\nunion all\n"));
    }

    private static List<String> folded(StagedFile file) {
        return file.header().stream().map(name -> name.toLowerCase(Locale.ROOT)).toList();
    }

    private String scan(StagedFiles delivery, List<Integer> files, List<String> columns) {
        Dialect dialect = stager.dialect();
        StagedFile first = delivery.files().get(files.get(0));
        List<String> paths = files.stream()
                .map(index -> dialect.text(delivery.files().get(index).path().toString()))
                .toList();
        String number = files.size() == 1
                ? "cast(" + files.get(0) + " as smallint)"
                : "cast([" + files.stream().map(String::valueOf).collect(Collectors.joining(", ")) + "][list_position(["
                        + String.join(", ", paths) + "], zk_filename)] as smallint)";
        List<String> nullWords = delivery.input().csv().nullWords();
        return """
                select %s%s as zk_file
                from read_csv([%s],
                  auto_detect = false, header = true, delim = %s, quote = '"', escape = '"', encoding = %s,
                  columns = {%s},
                  nullstr = [%s], allow_quoted_nulls = false, filename = 'zk_filename',
                  store_rejects = true, rejects_table = 'zk_rejects', rejects_scan = 'zk_reject_scans')""".formatted(
                        columns.stream().map(name -> dialect.quote(name) + ", ").collect(Collectors.joining()),
                        number,
                        String.join(", ", paths),
                        dialect.text(delivery.delimiter()),
                        dialect.text(delivery.input().csv().encoding()),
                        dialect.list(first.header(), name -> dialect.text(name) + ": 'VARCHAR'"),
                        nullWords.isEmpty() ? "chr(1)" : dialect.list(nullWords, dialect::text));
    }

    private String converted(String source, List<Column> columns, Conversion conversion, boolean trim) {
        Dialect dialect = stager.dialect();
        StringBuilder inner = new StringBuilder();
        StringBuilder outer = new StringBuilder();
        StringBuilder badColumn = new StringBuilder();
        StringBuilder badText = new StringBuilder();
        for (int index = 0; index < columns.size(); index++) {
            Column column = columns.get(index);
            String name = dialect.quote(column.name());
            String text = trim ? "nullif(trim(" + name + "), '')" : name;
            inner.append("%s as zk_v%d, %s as zk_t%d,\n    "
                    .formatted(conversion.of(text, column.type()), index, name, index));
            outer.append("zk_v%d as %s,\n  ".formatted(index, name));
            if (!column.type().equals(SqlType.VARCHAR)) {
                String bad = "\n    when zk_v%d is null and zk_t%d is not null and trim(zk_t%d) <> '' then "
                        .formatted(index, index, index);
                badColumn.append(bad).append(dialect.text(column.name()));
                badText.append(bad).append("zk_t").append(index);
            }
        }
        return """
                select
                  %szk_file,
                  %s as zk_bad_column,
                  %s as zk_bad_text
                from (
                  select
                    %szk_file
                  from (
                %s
                  ) as texts
                ) as converted""".formatted(
                        outer,
                        firstOf(badColumn),
                        firstOf(badText),
                        inner,
                        source.indent(4).stripTrailing());
    }

    private static String firstOf(StringBuilder branches) {
        return branches.isEmpty() ? "cast(null as varchar)" : "case" + branches + "\n  end";
    }

    private List<BadLine> badLines(StagedFiles delivery) {
        return new Rejects(stager, delivery).badLines();
    }

    static StagingException unclosed(String shown, long line) {
        return new StagingException("Cannot read " + shown + ":" + line
                + ": a quote opened in the record that begins on this line is never closed");
    }
}
