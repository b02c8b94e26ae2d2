package dev.zeitkammer.event;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * What the newest load came to, as numbers in the OpenMetrics text format, version 1.0: gauges with the project, the warehouse and
 * the table as labels. Whoever collects them reads the file whenever it likes: it is there whole, or as it was before.
 */
public final class LoadMetrics {

    /** With what every such file begins. */
    private static final String FIRST = "# TYPE zeitkammer_load_number gauge\n";

    private final String labels;
    private final List<String> lines = new ArrayList<>();

    private LoadMetrics(String project, String warehouse) {
        this.labels = "project=" + quoted(project) + ",warehouse=" + quoted(warehouse);
    }

    /**
     * @param lastGood when the newest load that was done ended, in UTC; empty where none ever was
     */
    public static String text(String project, String warehouse, LoadEntry load, Optional<LocalDateTime> lastGood) {
        LoadMetrics metrics = new LoadMetrics(project, warehouse);
        metrics.family("zeitkammer_load_number", "The number of the newest load.");
        metrics.value("zeitkammer_load_number", "", load.load());
        metrics.family("zeitkammer_load_done", "Whether the newest load was done.");
        metrics.value("zeitkammer_load_done", "", load.status() == LoadStatus.DONE ? 1 : 0);
        metrics.family("zeitkammer_load_ended_timestamp_seconds", "When the newest load ended.");
        load.ended().ifPresent(ended -> metrics.value("zeitkammer_load_ended_timestamp_seconds", "", seconds(ended)));
        metrics.family("zeitkammer_good_load_ended_timestamp_seconds", "When the newest load that was done ended.");
        lastGood.ifPresent(ended -> metrics.value("zeitkammer_good_load_ended_timestamp_seconds", "", seconds(ended)));
        metrics.family("zeitkammer_table_done", "Whether the table was loaded, or nothing was delivered to it.");
        metrics.family("zeitkammer_table_done", load, table -> table.isLoaded() ? 1 : 0);
        metrics.family("zeitkammer_table_seconds", "How long the table took.");
        metrics.family("zeitkammer_table_seconds", load, TableEntry::seconds);
        metrics.family("zeitkammer_table_rows_staged", "Staged rows.");
        metrics.family("zeitkammer_table_rows_staged", load, table -> table.count("staged"));
        metrics.family("zeitkammer_table_rows_inserted", "Rows that were inserted.");
        metrics.family("zeitkammer_table_rows_inserted", load, TableEntry::inserted);
        metrics.family("zeitkammer_table_rows_updated", "Rows that were changed.");
        metrics.family("zeitkammer_table_rows_updated", load, TableEntry::updated);
        metrics.family("zeitkammer_table_rows_set_aside", "Staged rows that were set aside.");
        metrics.family("zeitkammer_table_rows_set_aside", load, table -> table.count("setAside"));
        metrics.family("zeitkammer_table_rows_waiting", "Staged rows that wait.");
        metrics.family("zeitkammer_table_rows_waiting", load, table -> table.count("waiting"));
        metrics.lines.add("# EOF");
        return String.join("\n", metrics.lines) + "\n";
    }

    private static boolean isMetrics(Path file) throws IOException {
        try (InputStream bytes = Files.newInputStream(file)) {
            return new String(bytes.readNBytes(FIRST.length()), StandardCharsets.UTF_8).equals(FIRST);
        }
    }

    /** A number of a table. */
    private interface Number {
        double of(TableEntry table);
    }

    private void family(String name, LoadEntry load, Number number) {
        load.tables().forEach(table -> value(name, ",table=" + quoted(table.table()), number.of(table)));
    }

    private void family(String name, String help) {
        lines.add("# TYPE " + name + " gauge");
        lines.add("# HELP " + name + " " + help);
    }

    private void value(String name, String more, double number) {
        String shown = number == Math.rint(number) ? String.valueOf((long) number) : String.valueOf(number);
        lines.add(name + "{" + labels + more + "} " + shown);
    }

    private static long seconds(LocalDateTime moment) {
        return moment.toEpochSecond(ZoneOffset.UTC);
    }

    private static String quoted(String text) {
        return '"' + text.replace("\\", "\\\\").replace("\"", "\\\"").replace("\n", "\\n") + '"';
    }

    /**
     * Puts a text in the place of a file that holds metrics, at once.
     *
     * @throws IOException where it cannot be written, or the file holds something else; it is as it was then
     */
    public static void write(Path file, String text) throws IOException {
        if (Files.exists(file) && !isMetrics(file)) {
            throw new FileAlreadyExistsException(file + " holds something else than metrics");
        }
        Path beside = Files.createTempFile(file.toAbsolutePath().getParent(), "." + file.getFileName(), ".part");
        try {
            Files.writeString(beside, text);
            Files.move(beside, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } finally {
            Files.deleteIfExists(beside);
        }
    }
}
