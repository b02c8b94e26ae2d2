package dev.zeitkammer.profile;

import dev.zeitkammer.definition.UsageException;
import dev.zeitkammer.engine.DatabaseAddress;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.engine.database.OperationalDatabase;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** What a star can be drafted of: files, each name once for all the days of its deliveries, or the tables of a database. */
public final class StarSources {

    private static final Pattern DATA = Pattern.compile(
            ".*\\.(csv|tsv|txt|dat|json|jsonl|ndjson|parquet)(\\.gz|\\.zst)?", Pattern.CASE_INSENSITIVE);
    private static final Pattern DAY = Pattern.compile("\\d{4}-\\d\\d-\\d\\d");
    private static final int DEEPEST = 4;

    private StarSources() {}

    /**
     * One thing to look at.
     *
     * @param name the name of its input
     * @param from a file, a pattern with the place of the date, or a table
     * @param sample of the files of a pattern, the largest one
     * @param days the dates of its deliveries, where files have them in their paths
     */
    public record Waiting(
            String name, String from, Optional<Path> sample, Optional<String> database, TreeSet<String> days) {}

    /**
     * Files, and the files in folders.
     *
     * @param here the folder that relative ones are relative to
     * @throws UsageException where there is none
     */
    public static List<Waiting> files(List<String> given, Path here) {
        Map<String, Waiting> found = new LinkedHashMap<>();
        for (Path file : given.stream()
                .flatMap(each -> data(here.resolve(each)).stream())
                .toList()) {
            String path = file.toAbsolutePath().normalize().toString().replace('\\', '/');
            String pattern = DAY.matcher(path).replaceAll("{date}");
            Waiting waiting = found.computeIfAbsent(
                    pattern,
                    first -> new Waiting(
                            free(name(pattern), found), pattern, Optional.empty(), Optional.empty(), new TreeSet<>()));
            DAY.matcher(path).results().forEach(day -> waiting.days().add(day.group()));
            Path sample = waiting.sample()
                    .filter(other -> other.toFile().length() >= file.toFile().length())
                    .orElse(file);
            found.put(
                    pattern,
                    new Waiting(waiting.name(), pattern, Optional.of(sample), Optional.empty(), waiting.days()));
        }
        return List.copyOf(found.values());
    }

    private static List<Path> data(Path path) {
        if (Files.isRegularFile(path)) {
            return List.of(path);
        }
        if (!Files.isDirectory(path)) {
            throw new UsageException("There is no file or folder " + path + "; nothing was written");
        }
        try (Stream<Path> files = Files.walk(path, DEEPEST)) {
            List<Path> found = files.filter(
                            file -> DATA.matcher(file.toString()).matches() && Files.isRegularFile(file))
                    .sorted()
                    .toList();
            if (found.isEmpty()) {
                throw new UsageException("There is no file of rows in " + path
                        + " (.csv, .tsv, .json, .jsonl or .parquet); nothing was written");
            }
            return found;
        } catch (IOException unreadable) {
            throw new ZeitkammerException("Cannot read " + path + ": " + unreadable.getMessage(), unreadable);
        }
    }

    /** The tables and views of a database. */
    public static List<Waiting> tables(DatabaseAddress address, Path project) {
        List<String> tables = new OperationalDatabase(address, project).tables();
        if (tables.isEmpty()) {
            throw new UsageException("There is no table in " + address + "; nothing was written");
        }
        Map<String, Waiting> found = new LinkedHashMap<>();
        tables.forEach(table -> found.put(
                table,
                new Waiting(
                        free(name(table), found),
                        table,
                        Optional.empty(),
                        Optional.of(address.name()),
                        new TreeSet<>())));
        return List.copyOf(found.values());
    }

    /** A name of letters, digits and underscores, without what tells days apart. */
    private static String name(String path) {
        String file = path.replaceFirst(".*/", "")
                .replaceFirst("(?i)(\\.(csv|tsv|txt|dat|json|jsonl|ndjson|parquet|gz|zst))+$", "");
        String name = file.replace("{date}", "")
                .replaceAll("\\d{8}(\\d{4,6})?", "")
                .replaceAll("[^\\p{L}\\p{N}]+", "_")
                .replaceAll("^_+|_+$", "")
                .toLowerCase(Locale.ROOT);
        return name.isEmpty() || Character.isDigit(name.charAt(0)) ? "rows" + (name.isEmpty() ? "" : "_" + name) : name;
    }

    private static String free(String name, Map<String, Waiting> taken) {
        List<String> names = new ArrayList<>();
        taken.values().forEach(waiting -> names.add(waiting.name()));
        String free = name;
        for (int number = 2; names.contains(free); number++) {
            free = name + "_" + number;
        }
        return free;
    }
}
