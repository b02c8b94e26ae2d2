package dev.zeitkammer.load;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.reading.ProjectReader;
import dev.zeitkammer.definition.reading.SchemaCheck;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.staging.LoadDate;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** A project in a folder and its warehouse in memory, for tests that write files, load, and look. */
public final class TestStar implements AutoCloseable {

    private final Path folder;
    private Warehouse warehouse;

    public TestStar(Path folder) {
        this.folder = folder;
        write("zeitkammer.yaml", "project: test\nwarehouses: {memory: {url: \"jdbc:duckdb:\"}}\n");
    }

    /** Writes a file of the project. */
    public TestStar write(String file, String text) {
        return write(file, text.getBytes(StandardCharsets.UTF_8));
    }

    public TestStar write(String file, byte[] bytes) {
        try {
            Path path = folder.resolve(file);
            Files.createDirectories(path.getParent());
            Files.write(path, bytes);
            return this;
        } catch (IOException refused) {
            throw new UncheckedIOException(refused);
        }
    }

    /** The text of a file of the project. */
    public String read(String file) {
        try {
            return Files.readString(folder.resolve(file));
        } catch (IOException refused) {
            throw new UncheckedIOException(refused);
        }
    }

    /** The project; what its files' JSON Schema says of them must agree with what their readers say. */
    public Project project() {
        try {
            Project project = ProjectReader.read(folder, Map.of());
            SchemaCheck.agrees(folder, List.of());
            return project;
        } catch (DefinitionException wrong) {
            SchemaCheck.agrees(folder, wrong.problems());
            throw wrong;
        }
    }

    public Warehouse warehouse() {
        if (warehouse == null) {
            warehouse = TestWarehouses.open(folder);
            warehouse.confine(Set.of(folder));
        }
        return warehouse;
    }

    /** From now on nothing is cheaply kept. */
    public void tight() {
        warehouse = TestWarehouses.tight(warehouse());
    }

    /** Loads everything for a date, but reads nothing that the last load has read already. */
    public LoadEntry loadNews(String date, String... tables) {
        Request request = new Request(LoadDate.parse(date), List.of(tables), false, true, Set.of(), false);
        return new Loader(project(), warehouse(), LoadListener.NONE, Clock.systemUTC()).load(request.news("test"));
    }

    /** Loads everything for a date. */
    public LoadEntry load(String date, String... tables) {
        return new Loader(project(), warehouse(), LoadListener.NONE, Clock.systemUTC())
                .load(new Request(LoadDate.parse(date), List.of(tables), false, true, Set.of(), false));
    }

    /** Loads files into one table, instead of its delivery. */
    public TableEntry mended(String date, String table, OptionalLong resolves, String... files) {
        Mended mended = new Mended(Stream.of(files).map(folder::resolve).toList(), resolves);
        Request request = new Request(LoadDate.parse(date), List.of(table), false, true, Set.of(), false);
        return new Loader(project(), warehouse(), LoadListener.NONE, Clock.systemUTC())
                .load(request.from(mended))
                .tables()
                .get(0);
    }

    /** Loads one table that must not fail. */
    public TableEntry loaded(String date, String table) {
        LoadEntry load = load(date);
        TableEntry entry = load.tables().stream()
                .filter(each -> each.table().equals(table))
                .findFirst()
                .orElseThrow();
        assertThat(entry.status()).as(entry.error().orElse("")).isEqualTo(LoadStatus.DONE);
        return entry;
    }

    /** The error of the only table that did not load. */
    public String failure(String date) {
        List<TableEntry> entries = load(date).tables().stream()
                .filter(entry -> entry.status() == LoadStatus.FAILED || entry.status() == LoadStatus.STOPPED)
                .toList();
        assertThat(entries).hasSize(1);
        return entries.get(0).error().orElseThrow();
    }

    /** The rows of a query, values joined by a bar. */
    public List<String> rows(String sql) {
        return warehouse().query(sql, row -> {
            List<String> values = new ArrayList<>();
            for (int column = 1; column <= row.width(); column++) {
                values.add(String.valueOf(text(row, column)));
            }
            return String.join("|", values);
        });
    }

    /** A value as text, the same on every engine. */
    public static @Nullable String text(Row row, int column) {
        Object value = row.value(column);
        if (value instanceof Boolean || value instanceof LocalTime) {
            return value.toString();
        }
        return value instanceof LocalDateTime moment ? Timestamp.valueOf(moment).toString() : row.text(column);
    }

    /** What was set aside so far: reason, column, value, line and text, joined by a bar. */
    public List<String> setAside() {
        List<SetAsideRow> rows = new Journal(warehouse()).setAside(Optional.empty());
        return rows.stream()
                .map(row -> String.join(
                        "|",
                        row.reason(),
                        String.valueOf(row.column()),
                        String.valueOf(row.value()),
                        String.valueOf(row.line()),
                        String.valueOf(row.text())))
                .toList();
    }

    /** The rows that wait: table, since when, reason, column, value, line and text, joined by a bar. */
    public List<String> waiting() {
        return new Journal(warehouse())
                .waiting().stream()
                        .map(entry -> String.join(
                                "|",
                                entry.table(),
                                entry.since(),
                                entry.row().reason(),
                                String.valueOf(entry.row().column()),
                                String.valueOf(entry.row().value()),
                                String.valueOf(entry.row().line()),
                                String.valueOf(entry.row().text())))
                        .toList();
    }

    @Override
    public void close() {
        if (warehouse != null) {
            warehouse.close();
        }
    }
}
