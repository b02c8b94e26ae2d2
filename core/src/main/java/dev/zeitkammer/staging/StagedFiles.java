package dev.zeitkammer.staging;

import dev.zeitkammer.definition.CsvForm;
import dev.zeitkammer.definition.Input;
import java.nio.file.Path;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * The files of one delivery, before their rows are read.
 *
 * @param files the files with their headers, in order of their paths; never empty
 */
public record StagedFiles(Input input, Path folder, List<StagedFile> files) {

    /** A file and the names of its columns, in its order. */
    record StagedFile(Path path, List<String> header) {}

    public StagedFiles {
        files = List.copyOf(files);
    }

    /** The columns of the delivery, as the first file writes them. */
    public List<String> header() {
        return files.get(0).header();
    }

    /** The staged column of a name, whatever its case. */
    public Optional<String> column(String name) {
        return header().stream().filter(name::equalsIgnoreCase).findFirst();
    }

    /** A file as messages show it: relative to the project where it is inside. */
    String shown(Path file) {
        return file.startsWith(folder) ? folder.relativize(file).toString().replace('\\', '/') : file.toString();
    }

    /** A file of the delivery by its number, as messages show it. */
    public String shownFile(int number) {
        return shown(files.get(number).path());
    }

    /** The names of the files, as messages show them. */
    public String shown() {
        return shown(files.get(0).path()) + (files.size() == 1 ? "" : " and " + (files.size() - 1) + " more");
    }

    String delimiter() {
        CsvForm csv = input.csv();
        return csv.delimiter().orElseGet(() -> separatedByTabs() ? "\t" : ",");
    }

    private boolean separatedByTabs() {
        String name = files.get(0).path().getFileName().toString().toLowerCase(Locale.ROOT);
        return name.matches(".*\\.tsv(\\.gz)?");
    }
}
