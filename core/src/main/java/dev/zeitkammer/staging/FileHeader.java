package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.staging.text.RecordScanner;
import dev.zeitkammer.staging.text.TextFiles;
import java.io.IOException;
import java.io.Reader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * What the first record of a delimited file says.
 *
 * @param columns the names of its columns; those of the definition where the file has no header
 * @param text the record that named them; empty where none did
 * @param lineEnd what ends the record, where it stands on several lines itself: the engine must be told then
 */
record FileHeader(List<String> columns, String text, Optional<String> lineEnd) {

    /**
     * The header of a file.
     *
     * @param shown how messages call the file
     * @throws StagingException when it is no delimited text, or columns have no name or the same
     */
    static FileHeader of(Path file, String shown, Input input, char delimiter) {
        CsvForm csv = input.csv();
        try (Reader reader = TextFiles.open(file, csv.encoding())) {
            RecordScanner records = new RecordScanner(reader, delimiter);
            boolean any = Files.size(file) > 0 && records.next();
            if (!any && csv.header()) {
                throw new StagingException("Cannot read " + shown
                        + ": the file is empty; expected a header line with the names of the columns");
            }
            if (TextFiles.isBinary(file, csv.encoding())) {
                throw new StagingException("Cannot read " + shown + ":1: this is not text in " + csv.encoding()
                        + "; expected delimited text" + (csv.header() ? " with a header line" : ""));
            }
            if (records.isUnclosed()) {
                throw unclosed(shown, records.line());
            }
            Optional<String> lineEnd = Optional.of(records)
                    .filter(first -> any && first.isOfSeveralLines())
                    .map(RecordScanner::lineEnd)
                    .filter(end -> !end.isEmpty());
            return csv.header()
                    ? new FileHeader(
                            distinct(shown, TextFiles.fields(records.text(), delimiter)).stream()
                                    .map(Names::of)
                                    .toList(),
                            records.text(),
                            lineEnd)
                    : new FileHeader(
                            input.columns().stream()
                                    .map(column -> column.name().text())
                                    .toList(),
                            "",
                            lineEnd);
        } catch (IOException unreadable) {
            throw new StagingException("Cannot read " + shown + ": " + unreadable.getMessage(), unreadable);
        }
    }

    private static List<String> distinct(String shown, List<String> header) {
        Set<String> seen = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        for (String name : header) {
            if (name.isEmpty()) {
                throw new StagingException(
                        "Cannot read " + shown + ":1: column " + (seen.size() + 1) + " has no name in the header line");
            }
            if (!seen.add(name)) {
                throw new StagingException(
                        "Cannot read " + shown + ":1: two columns are named \"" + name + "\" in the header line");
            }
        }
        return header;
    }

    /** What is wrong where a quote is open at the end of a file. */
    static StagingException unclosed(String shown, long line) {
        return new StagingException("Cannot read " + shown + ":" + line
                + ": a quote opened in the record that begins on this line is never closed");
    }
}
