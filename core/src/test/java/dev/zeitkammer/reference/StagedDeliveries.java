package dev.zeitkammer.reference;

import dev.zeitkammer.engine.Warehouse;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Puts deliveries of the random dimension where they are staged from: into files, or into a table of the warehouse. */
final class StagedDeliveries {

    /** A large delivery comes in so many files. */
    private static final int FILES = 3;

    private final Path folder;
    private final Settings settings;
    private final long seed;
    private final int copies;
    private final Set<List<StagedRow>> lacks = Collections.newSetFromMap(new IdentityHashMap<>());

    /** @param copies how many members there are of each that the reference knows */
    StagedDeliveries(Path folder, Settings settings, long seed, int copies) {
        this.folder = folder;
        this.settings = settings;
        this.seed = seed;
        this.copies = copies;
    }

    /** Whether a delivery says nothing of the attribute of type 1. */
    boolean lacks(List<StagedRow> delivery) {
        return lacks.contains(delivery);
    }

    /** Some deliveries behind the first say nothing of the attribute of type 1. */
    List<StagedRow> lacking(int number, List<StagedRow> delivery) {
        if (!settings.lacking() || number == 0 || (seed / 4 + number) % 2 == 0) {
            return delivery;
        }
        Map<StagedRow, StagedRow> without = new IdentityHashMap<>();
        List<StagedRow> lacking = delivery.stream()
                .map(row -> without.computeIfAbsent(row, StagedRow::withoutOver))
                .toList();
        lacks.add(lacking);
        return lacking;
    }

    void write(Warehouse warehouse, LocalDate day, List<StagedRow> delivery) throws IOException {
        if (settings.lying()) {
            stage(warehouse, delivery);
            return;
        }
        String name = settings.days().loadDate(day).in("day-{date}");
        int files = Math.min(copies, FILES);
        for (int file = 0; file < files; file++) {
            List<String> lines = new ArrayList<>(List.of(written(StagedRow.HEADER, delivery)));
            for (int copy = file * copies / files; copy < (file + 1) * copies / files; copy++) {
                for (StagedRow row : delivery) {
                    lines.add(written(row.csv(settings.days(), "_" + copy), delivery));
                }
            }
            Files.write(folder.resolve(name + (file == 0 ? "" : "-" + file) + ".csv"), lines);
        }
    }

    /** A line of a delivery, without what it lacks. */
    private String written(String line, List<StagedRow> delivery) {
        if (!lacks.contains(delivery)) {
            return line;
        }
        List<String> values = new ArrayList<>(List.of(line.split(",", -1)));
        values.remove(StagedRow.OVER);
        return String.join(",", values);
    }

    /** Refills the table in which the rows lie. */
    private void stage(Warehouse warehouse, List<StagedRow> delivery) {
        String columns = String.join(
                        " varchar(40), ", written(StagedRow.HEADER, delivery).split(",")) + " varchar(40)";
        warehouse.execute("create schema if not exists office");
        warehouse.execute("drop table if exists " + Settings.TABLE);
        warehouse.execute("create table " + Settings.TABLE + " (" + columns + ")");
        List<String> rows = new ArrayList<>();
        for (StagedRow row : delivery) {
            rows.add(Stream.of(written(row.csv(settings.days(), "_0"), delivery).split(",", -1))
                    .map(value -> value.isEmpty() ? "null" : "'" + value + "'")
                    .collect(Collectors.joining(", ", "(", ")")));
        }
        if (!rows.isEmpty()) {
            warehouse.execute("insert into " + Settings.TABLE + " values " + String.join(", ", rows));
        }
    }
}
