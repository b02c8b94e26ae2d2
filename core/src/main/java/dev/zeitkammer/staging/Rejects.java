package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.staging.text.RecordScanner;
import dev.zeitkammer.staging.text.TextFiles;
import java.io.IOException;
import java.io.Reader;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** The lines that the engine's reader could not take as rows. */
final class Rejects {

    private final Stager stager;
    private final DeliveredFiles files;
    private final DeliveredFiles read;
    private final CsvForm csv;
    private final char delimiter;
    private final String relation;
    private long @Nullable [] counted;

    /**
     * @param read the files as the engine read them, in the same order
     * @param relation the staged rows
     */
    Rejects(Stager stager, DeliveredFiles files, DeliveredFiles read, CsvForm csv, char delimiter, String relation) {
        this.stager = stager;
        this.files = files;
        this.read = read;
        this.csv = csv;
        this.delimiter = delimiter;
        this.relation = relation;
    }

    /**
     * A line that could not be read as a row.
     *
     * @param record the record's number in the file, from 1, the header included
     * @param line the line on which it begins
     */
    record BadLine(int file, long record, long line, String problem, String text) {}

    /** One line that was rejected, by the number of its record. */
    private record Reject(String file, long record, String kind, String message) {}

    /** Whether records were rejected because they are longer than expected, as those over several lines may be. */
    boolean areLongLines() {
        return counted()[0] > 0;
    }

    /** The records rejected because they are longer than expected, all of them, and the files that gave rows. */
    private long[] counted() {
        if (counted == null) {
            counted = stager.query(
                            "select count(case when error_type like 'LINE SIZE%' then 1 end), count(*),"
                                    + " (select count(distinct zk_file) from " + Staging.readInto(relation)
                                    + ") from zk_rejects",
                            row -> new long[] {row.number(1), row.number(2), row.number(3)})
                    .get(0);
        }
        return counted;
    }

    /**
     * The rejected lines, in order of files and lines, with their texts.
     *
     * @throws StagingException when a quote is never closed, since everything behind it would be lost
     */
    List<BadLine> badLines() {
        if (counted()[1] == 0) {
            return List.of();
        }
        List<Reject> rejects = stager.query(
                """
                select s.file_path, r.line, min(r.error_type), min(r.error_message)
                from zk_rejects as r join zk_reject_scans as s using (scan_id, file_id)
                group by s.file_path, r.line
                order by s.file_path, r.line""",
                row -> new Reject(
                        String.valueOf(row.text(1)),
                        row.number(2),
                        String.valueOf(row.text(3)),
                        String.valueOf(row.text(4))));
        Map<String, Map<Long, Reject>> byFile = new HashMap<>();
        rejects.forEach(reject ->
                byFile.computeIfAbsent(reject.file(), file -> new TreeMap<>()).put(reject.record(), reject));
        List<BadLine> lines = new ArrayList<>();
        for (int index = 0; index < files.paths().size(); index++) {
            Path file = files.paths().get(index);
            Map<Long, Reject> here = byFile.get(read.paths().get(index).toString());
            if (here != null) {
                lines.addAll(located(index, file, here));
            }
        }
        return lines;
    }

    private List<BadLine> located(int index, Path file, Map<Long, Reject> rejects) {
        List<BadLine> lines = new ArrayList<>();
        boolean quotes = rejects.values().stream().anyMatch(reject -> concernsQuotes(reject.kind()));
        long record = 0;
        long blank = 0;
        try (Reader reader = TextFiles.open(file, csv.encoding())) {
            RecordScanner records = new RecordScanner(reader, delimiter);
            while ((quotes || lines.size() < rejects.size()) && records.next()) {
                record++;
                if (records.isUnclosed()) {
                    throw FileHeader.unclosed(files.shown(file), records.line());
                }
                blank += records.isBlank() ? 1 : 0;
                Reject reject = rejects.get(record);
                if (reject != null) {
                    lines.add(new BadLine(index, record, records.line(), problem(reject), records.text()));
                }
            }
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + files.shown(file) + ": " + unreadable.getMessage(), unreadable);
        }
        if (quotes) {
            everyRecordIsAccounted(index, record - (csv.header() ? 1 : 0) - blank, lines);
        }
        return lines;
    }

    /** The engine's reader and the scanner must agree on the records of a file whose quotes are in doubt; none may be lost. */
    private void everyRecordIsAccounted(int file, long records, List<BadLine> bad) {
        long rows = stager.number("select count(*) from " + relation + " where zk_file = " + file);
        if (rows + bad.size() != records) {
            throw new StagingException(
                    "Cannot read " + files.shown(file) + ":" + bad.get(0).line()
                            + ": the quotes on this line are broken, and it cannot be told where the rows behind it begin; "
                            + rows + " rows were found in " + records + " records");
        }
    }

    /**
     * A file of which the engine says that it has no rows must have none: one that could not be read is never an empty one.
     *
     * @param bad the lines that were no rows
     * @param blankIsRow whether an empty line is a row
     * @throws StagingException where one has a record all the same
     */
    void everyFileGaveRows(List<BadLine> bad, boolean blankIsRow) {
        if (counted()[2] == files.paths().size()) {
            return;
        }
        Set<Integer> told = new HashSet<>(
                stager.query("select distinct zk_file from " + Staging.readInto(relation), row -> (int) row.number(1)));
        bad.forEach(line -> told.add(line.file()));
        for (int number = 0; number < files.paths().size(); number++) {
            if (!told.contains(number)) {
                hasNoRecord(number, blankIsRow);
            }
        }
    }

    private void hasNoRecord(int number, boolean blankIsRow) {
        try (Reader reader = TextFiles.open(files.paths().get(number), csv.encoding())) {
            RecordScanner records = new RecordScanner(reader, delimiter);
            boolean any = !csv.header() || records.next();
            while (any && records.next()) {
                if (!records.isBlank() || blankIsRow) {
                    throw new StagingException("Cannot read " + files.shown(number) + ":" + records.line()
                            + ": there is a record, and no row was read of the file; are its lines ended in one way,"
                            + " and its quotes closed?");
                }
            }
        } catch (IOException unreadable) {
            throw new StagingException(
                    "Cannot read " + files.shown(number) + ": " + unreadable.getMessage(), unreadable);
        }
    }

    private static boolean concernsQuotes(String kind) {
        return kind.equals("UNQUOTED VALUE") || kind.startsWith("LINE SIZE");
    }

    private static String problem(Reject reject) {
        return switch (reject.kind()) {
            case "TOO MANY COLUMNS", "MISSING COLUMNS" -> {
                String[] numbers =
                        reject.message().replaceAll("[^0-9]+", " ").strip().split(" ");
                yield numbers.length == 2 ? numbers[1] + " fields, the header has " + numbers[0] : reject.message();
            }
            case "UNQUOTED VALUE" ->
                "a quote stands inside a value; a value with quotes is quoted, and its quotes doubled";
            case "INVALID ENCODING" -> "bytes that are not in the input's encoding";
            default -> reject.message();
        };
    }
}
