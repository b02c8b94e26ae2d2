package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.SqlType;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.staging.conversion.Conversion;
import dev.zeitkammer.staging.text.PlainForm;
import dev.zeitkammer.staging.text.PlainScan;
import dev.zeitkammer.staging.text.RecordScanner;
import dev.zeitkammer.staging.text.TextFiles;
import java.io.IOException;
import java.io.Reader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/** Delimited files: their headers are read here, their rows by the engine. */
final class DelimitedFiles extends FileSource {

    /** What no file writes; an empty text would be taken for null without it. */
    private static final String NO_NULL_WORD = "\u0001\u0002\u0003";

    /** The length up to which the engine's reader takes lines unasked. */
    private static final int LONG_LINE = 2_000_000;

    /** The bytes from which on a plain reading saves more than the look at the beginning costs. */
    private static final long WORTH_A_LOOK = 4L << 20;

    private static final long BEGINNING = 1L << 20;

    /** What separates fields and stands in no plain value. */
    private static final String SEPARATORS = ",;\t|";

    private final List<FileHeader> headers;
    private List<Rejects.BadLine> badLines = List.of();
    private @Nullable Rejects rejects;
    private DeliveredFiles read;
    private String encoding;
    private boolean isRewritten;

    private boolean hasLongLines;
    private boolean longLinesRefused;

    private DelimitedFiles(Input input, DeliveredFiles files, Stager stager, List<FileHeader> headers) {
        super(input, files, stager);
        this.headers = headers;
        this.read = files;
        this.encoding = input.csv().encoding();
    }

    static DelimitedFiles open(Input input, DeliveredFiles files, Stager stager) {
        DelimitedFiles nameless = new DelimitedFiles(input, files, stager, List.of());
        List<FileHeader> headers = new ArrayList<>();
        for (Path file : files.paths()) {
            headers.add(FileHeader.of(
                    file, files.shown(file), input, nameless.delimiter().charAt(0)));
        }
        files.sameColumns(headers.stream().map(FileHeader::columns).toList());
        DelimitedFiles named = new DelimitedFiles(input, files, stager, headers);
        named.hasLongLines = files.haveLongLines();
        return named;
    }

    @Override
    public List<String> header() {
        return headers.get(0).columns();
    }

    @Override
    public RowForm form(String file) {
        for (int number = 0; number < headers.size(); number++) {
            if (files.shown(number).equals(file)) {
                return new RowForm(
                        RowForm.Kind.DELIMITED,
                        csv().encoding(),
                        headers.get(number).text());
            }
        }
        return new RowForm(
                RowForm.Kind.DELIMITED, csv().encoding(), headers.get(0).text());
    }

    @Override
    CsvForm csv() {
        return input.csv();
    }

    private String delimiter() {
        return csv().delimiter().orElseGet(() -> separatedByTabs() ? "\t" : ",");
    }

    private boolean separatedByTabs() {
        String name = files.paths().get(0).getFileName().toString().toLowerCase(Locale.ROOT);
        return name.matches(".*\\.tsv(\\.gz|\\.zst)?");
    }

    @Override
    Optional<SqlType> type(String column) {
        return Optional.empty();
    }

    /** Reads the files as texts; files with another order of columns are read on their own. */
    @Override
    String query(Map<String, Optional<SqlType>> columns, Earlier earlier) {
        see();
        makeReadable();
        if (stager.isInTransaction() && !isRewritten && mixLineEnds()) {
            rewrite();
        }
        return byHeader().stream()
                .map(numbers -> scan(numbers, List.copyOf(columns.keySet()), Map.of()))
                .collect(Collectors.joining("\nunion all\n"));
    }

    /** The numbers of the files, those with the same columns in the same order, which are read alike, together. */
    private Collection<List<Integer>> byHeader() {
        Map<List<String>, List<Integer>> byHeader = new LinkedHashMap<>();
        for (int number = 0; number < headers.size(); number++) {
            List<String> alike = new ArrayList<>(folded(headers.get(number).columns()));
            alike.add(lineEnd(number));
            byHeader.computeIfAbsent(alike, header -> new ArrayList<>()).add(number);
        }
        return byHeader.values();
    }

    /**
     * The option that says how lines end. The engine finds that out by the first record, and reads nothing at all where that one holds ends
     * of lines of another kind within quotes.
     */
    private String lineEnd(int number) {
        return headers.get(number)
                .lineEnd()
                .map(end -> isRewritten ? "\n" : end)
                .map(end -> " new_line = '" + end.replace("\r", "\\r").replace("\n", "\\n") + "',")
                .orElse("");
    }

    /** Files in an encoding that the engine does not take are written anew in one that it does. */
    private void makeReadable() {
        try {
            boolean foreign = false;
            for (Path file : files.paths()) {
                foreign |= TextFiles.isForeign(file, csv().encoding());
            }
            if (foreign && !isRewritten) {
                List<Path> copies = new ArrayList<>();
                for (Path file : files.paths()) {
                    copies.add(TextFiles.inUtf8(file, csv().encoding()));
                }
                read = new DeliveredFiles(files.folder(), copies);
                encoding = CsvForm.STANDARD.encoding();
            }
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + shown() + ": " + unreadable.getMessage(), unreadable);
        }
    }

    /** The engine refuses such files, and a transaction in which it refused something is over. */
    private boolean mixLineEnds() {
        try {
            boolean mixed = false;
            for (Path file : read.paths()) {
                mixed |= TextFiles.mixesLineEnds(file);
            }
            return mixed;
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + shown() + ": " + unreadable.getMessage(), unreadable);
        }
    }

    /** Records as they are, each ended by a line feed, in UTF-8: mixed ends of lines and rare characters are no matter then. */
    @Override
    boolean rewrite() {
        if (longLinesRefused) {
            longLinesRefused = false;
            return true;
        }
        if (isRewritten) {
            return false;
        }
        isRewritten = true;
        removeCopies();
        try {
            List<Path> copies = new ArrayList<>();
            for (Path file : files.paths()) {
                copies.add(TextFiles.records(file, csv().encoding(), delimiter().charAt(0)));
            }
            read = new DeliveredFiles(files.folder(), copies);
            encoding = CsvForm.STANDARD.encoding();
            return true;
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + shown() + ": " + unreadable.getMessage(), unreadable);
        }
    }

    @Override
    void discard() {
        removeCopies();
        read = files;
    }

    private void removeCopies() {
        if (read == files) {
            return;
        }
        for (Path copy : read.paths()) {
            try {
                Files.deleteIfExists(copy);
            } catch (IOException remains) {
                throw new StagingException("Cannot remove " + copy + ": " + remains.getMessage(), remains);
            }
        }
    }

    private static List<String> folded(List<String> header) {
        return header.stream().map(name -> name.toLowerCase(Locale.ROOT)).toList();
    }

    /** Large files whose beginning is plain; a small one is not worth the look. */
    @Override
    Optional<PlainReading> plainly(List<Column> columns) {
        Map<String, SqlType> types = new LinkedHashMap<>();
        columns.stream()
                .filter(column -> PlainForm.of(column.type(), csv()).isPresent())
                .forEach(column -> types.put(column.name().toLowerCase(Locale.ROOT), column.type()));
        boolean suits = !types.isEmpty()
                && files.bytes() >= WORTH_A_LOOK
                && read == files
                && !hasLongLines
                && SEPARATORS.indexOf(delimiter()) >= 0
                && files.paths().stream().noneMatch(TextFiles::isPacked)
                && !encoding.equals("utf-16");
        if (!suits || !beginsPlainly(types)) {
            return Optional.empty();
        }
        List<String> names = columns.stream().map(Column::name).toList();
        String query = byHeader().stream()
                .map(numbers -> scan(numbers, names, types))
                .collect(Collectors.joining("\nunion all\n"));
        List<PlainReading.Look> looks = IntStream.range(0, headers.size())
                .mapToObj(number -> new PlainReading.Look(files.paths().get(number), look(number, types)))
                .toList();
        return Optional.of(new PlainReading(
                new ConvertedRows(
                                new Conversion(stager.dialect(), csv()),
                                this,
                                stager.dialect(),
                                name -> Optional.ofNullable(types.get(name.toLowerCase(Locale.ROOT))))
                        .sql(query, columns),
                looks));
    }

    private boolean beginsPlainly(Map<String, SqlType> types) {
        try {
            return look(0, types).records(files.paths().get(0), BEGINNING).isPresent();
        } catch (IOException unreadable) {
            return false;
        }
    }

    private PlainScan look(int number, Map<String, SqlType> types) {
        List<PlainForm> fields = headers.get(number).columns().stream()
                .map(name -> Optional.ofNullable(types.get(name.toLowerCase(Locale.ROOT)))
                        .flatMap(type -> PlainForm.of(type, csv()))
                        .orElse(PlainForm.ANY))
                .toList();
        return new PlainScan(fields, delimiter().charAt(0), csv().header());
    }

    /** @param types the columns, in small letters, that the engine makes values of itself; it gives the others as texts */
    private String scan(List<Integer> numbers, List<String> columns, Map<String, SqlType> types) {
        Dialect dialect = stager.dialect();
        List<String> nullWords = csv().nullWords();
        return Sql.of("""
                select ${columns}${file_number} as zk_file
                from read_csv(${files},
                  auto_detect = false, header = ${has_header}, delim = ${delimiter}, quote = '"', escape = '"', encoding = ${encoding},
                  columns = {${header}},
                  nullstr = [${null_words}],${line_end}${long_lines} allow_quoted_nulls = false, filename = 'zk_filename', hive_partitioning = false,
                  store_rejects = true, rejects_table = 'zk_rejects', rejects_scan = 'zk_reject_scans')""")
                .with(
                        "columns",
                        columns.stream().map(name -> dialect.quote(name) + ", ").collect(Collectors.joining()))
                .with("file_number", read.number(dialect, numbers))
                .with("files", read.patterns(dialect, numbers))
                .with("has_header", csv().header())
                .with("delimiter", dialect.text(delimiter()))
                .with("encoding", dialect.text(encoding))
                .with(
                        "header",
                        dialect.list(
                                headers.get(numbers.get(0)).columns(),
                                name -> dialect.text(name) + ": "
                                        + dialect.text(dialect.type(
                                                types.getOrDefault(name.toLowerCase(Locale.ROOT), SqlType.VARCHAR)))))
                .with(
                        "null_words",
                        nullWords.isEmpty() ? dialect.text(NO_NULL_WORD) : dialect.list(nullWords, dialect::text))
                .with("line_end", lineEnd(numbers.get(0)))
                .with("long_lines", hasLongLines ? DeliveredFiles.longLines() : "")
                .text();
    }

    @Override
    boolean isScanned() {
        return true;
    }

    @Override
    void wasRead(String relation) {
        rejects = new Rejects(stager, files, read, csv(), delimiter().charAt(0), relation);
        expectLongLines(rejects.areLongLines());
    }

    @Override
    List<Unusable> unusable(String relation) {
        unchangedSinceSeen();
        Rejects rejects = Objects.requireNonNull(this.rejects);
        badLines = rejects.badLines();
        expectLongLines(badLines.stream().anyMatch(line -> line.text().length() > LONG_LINE));
        rejects.everyFileGaveRows(badLines, header().size() == 1);
        removeCopies();
        return badLines.stream()
                .map(line -> new Unusable(
                        "bad line", null, line.problem(), files.shown(line.file()), line.line(), line.text()))
                .toList();
    }

    /** Records over several lines show only now that they are long; then everything is read once more. */
    private void expectLongLines(boolean areLong) {
        if (areLong && !hasLongLines) {
            hasLongLines = true;
            longLinesRefused = true;
            throw new StagingException("Cannot read " + shown() + ": it has records longer than expected");
        }
    }

    @Override
    List<Locator.Located> locate(String relation, Collection<Long> rows) {
        Set<Long> wanted = new HashSet<>(rows);
        List<Locator.Located> located = new ArrayList<>();
        for (FileRows here : FileRows.of(stager, relation, wanted)) {
            locate(here, located);
        }
        return located;
    }

    private void locate(FileRows here, List<Locator.Located> located) {
        Path file = files.paths().get(here.file());
        boolean blankIsRow = header().size() == 1;
        Set<Long> rejected = badLines.stream()
                .filter(line -> line.file() == here.file())
                .map(Rejects.BadLine::record)
                .collect(Collectors.toSet());
        int missing = here.wanted().size();
        long record = 0;
        long row = here.first();
        try (Reader reader = TextFiles.open(file, csv().encoding())) {
            RecordScanner records = new RecordScanner(reader, delimiter().charAt(0));
            while (missing > 0 && records.next()) {
                record++;
                if ((record == 1 && csv().header())
                        || rejected.contains(record)
                        || (records.isBlank() && !blankIsRow)) {
                    continue;
                }
                if (here.wanted().contains(row)) {
                    located.add(new Locator.Located(row, files.shown(file), records.line(), records.text()));
                    missing--;
                }
                row++;
            }
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + files.shown(file) + ": " + unreadable.getMessage(), unreadable);
        }
    }
}
