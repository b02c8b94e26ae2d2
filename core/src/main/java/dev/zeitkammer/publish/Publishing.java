package dev.zeitkammer.publish;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.definition.AuditColumn;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.definition.Dimension;
import dev.zeitkammer.definition.Nearest;
import dev.zeitkammer.definition.Problem;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Publish;
import dev.zeitkammer.definition.Publish.Form;
import dev.zeitkammer.definition.Word;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.LostRowsException;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.publish.Manifest.NamedColumn;
import dev.zeitkammer.publish.Manifest.WrittenFile;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Writes tables out as open files. They are written beside the ones that are read, and put in place at once: by a link, {@code
 * current}, and by the manifest that names them; what was there stays for a while, for readers that are at it.
 */
public final class Publishing {

    static final String CURRENT = "current";
    private static final String LOAD = "load-";
    private static final String ROWS = "zk_published";

    /** Values may be as long as the engine can read them back; it costs memory to expect them. */
    private static final String LONG_LINES = ", max_line_size = " + (1 << 28) + ", buffer_size = " + (1 << 29);

    private final Project project;
    private final Warehouse warehouse;
    private final Clock clock;

    public Publishing(Project project, Warehouse warehouse, Clock clock) {
        this.project = project;
        this.warehouse = warehouse;
        this.clock = clock;
    }

    /**
     * What came of it.
     *
     * @param isWritten whether files were written; where the table has not changed since, they are not
     */
    public record Published(
            String table, Path folder, boolean isWritten, long load, long rows, int files, long bytes) {}

    /** The folders that tables are written to. */
    public static Set<Path> folders(Project project) {
        return project.definitions().stream()
                .flatMap(definition -> definition.publish().stream())
                .map(publish -> folder(project, publish))
                .collect(Collectors.toSet());
    }

    /**
     * The files of a table that were published and do not lie there any more as they were written; empty for one that has no
     * manifest.
     */
    public static Optional<List<String>> damaged(Project project, Definition definition) {
        return definition
                .publish()
                .map(publish -> folder(project, publish))
                .flatMap(folder -> Manifest.of(folder)
                        .filter(manifest -> manifest.table().equals(definition.table()))
                        .map(manifest -> new PublishedFolder(folder, project.folder()).damaged(manifest)));
    }

    static Path folder(Project project, Publish publish) {
        return project.folder().resolve(project.publishedTo(publish).text()).normalize();
    }

    /**
     * Publishes a table that says how.
     *
     * @throws ZeitkammerException where files cannot be written, or other rows stand in them than were read
     */
    public Published publish(Definition definition) {
        Publish publish = definition.publish().orElseThrow();
        Path folder = folder(project, publish);
        List<Column> columns = warehouse.columns(definition.table());
        refuseUnknown(publish, columns, definition);
        Books books = new Books(warehouse);
        long load = books.lastChange(definition.table());
        Manifest wanted = manifest(definition, publish, columns, new Source(load, books.begun(load)), List.of(), 0, "");
        Optional<Manifest> before = Manifest.of(folder);
        PublishedFolder place = new PublishedFolder(folder, project.folder());
        if (before.filter(manifest -> manifest.isLike(wanted) && place.holds(manifest, CURRENT))
                .isPresent()) {
            Manifest stands = before.get();
            return new Published(
                    definition.table(),
                    folder,
                    false,
                    load,
                    stands.rows(),
                    stands.files().size(),
                    bytes(stands));
        }
        try {
            return written(definition, publish, folder, wanted, before);
        } catch (IOException refused) {
            throw new ZeitkammerException(
                    "Cannot publish " + definition.table() + " to " + folder + ": " + refused.getMessage(), refused);
        }
    }

    private static long bytes(Manifest manifest) {
        return manifest.files().stream().mapToLong(WrittenFile::bytes).sum();
    }

    private static void refuseUnknown(Publish publish, List<Column> columns, Definition definition) {
        List<String> names = columns.stream().map(Column::name).toList();
        List<Problem> unknown = publish.partition().stream()
                .filter(word -> names.stream().noneMatch(word.text()::equalsIgnoreCase))
                .map(word -> new Problem(
                        word.place(),
                        "\"partition\" names " + word + ", which is no column of " + definition.table() + "; "
                                + Nearest.hint(word.text(), names)))
                .toList();
        if (!unknown.isEmpty()) {
            throw new DefinitionException(unknown);
        }
    }

    /** The load that last changed a table, and when it began: another warehouse has other moments. */
    private record Source(long load, String begun) {}

    private Manifest manifest(
            Definition definition,
            Publish publish,
            List<Column> columns,
            Source source,
            List<WrittenFile> files,
            long rows,
            String folder) {
        return new Manifest(
                definition.table(),
                source.load(),
                source.begun(),
                clock.instant().truncatedTo(ChronoUnit.SECONDS).toString(),
                publish.form().name().toLowerCase(Locale.ROOT),
                publish.quotesFormulas() ? "quoted" : null,
                publish.currentOnly() ? "current" : "all",
                publish.partition().stream().map(Word::text).toList(),
                columns.stream()
                        .map(column ->
                                new NamedColumn(column.name(), column.type().toString()))
                        .toList(),
                rows,
                folder,
                files);
    }

    private Published written(
            Definition definition, Publish publish, Path folder, Manifest wanted, Optional<Manifest> before)
            throws IOException {
        PublishedFolder published = new PublishedFolder(folder, project.folder());
        Path writing = published.begin(before);
        long rows = copy(definition, publish, writing);
        Path place = published.free(LOAD + wanted.load());
        List<WrittenFile> files = files(publish, writing, place.getFileName().toString());
        long inFiles = files.stream().mapToLong(WrittenFile::rows).sum();
        if (inFiles != rows) {
            throw new LostRowsException("the files hold " + inFiles + " rows, and the table has " + rows);
        }
        Instant now = clock.instant();
        published.place(writing, place, before, now);
        published.point(CURRENT, place);
        Manifest stands = wanted.with(rows, place.getFileName().toString(), files);
        stands.write(folder);
        published.end(stands, now.minus(publish.keptFor()));
        return new Published(
                definition.table(),
                folder,
                true,
                wanted.load(),
                rows,
                files.size(),
                files.stream().mapToLong(WrittenFile::bytes).sum());
    }

    /** Has the embedded engine write the files; returns the number of rows that the table has. */
    private long copy(Definition definition, Publish publish, Path writing) {
        Stager stager = warehouse.stager();
        boolean isHere = stager == warehouse;
        String query = query(definition, publish);
        if (!isHere) {
            warehouse.handOver(query, ROWS);
        }
        String rows = isHere ? "(" + query + ") as rows_of_table" : ROWS;
        Dialect dialect = stager.dialect();
        boolean isParquet = publish.form() == Form.PARQUET;
        String form = isParquet ? "format parquet, compression zstd" : "format csv, header true";
        String partition = publish.partition().isEmpty()
                ? ""
                : ", partition_by ("
                        + dialect.columns(
                                publish.partition().stream().map(Word::text).toList())
                        + "), write_partition_columns true";
        Path target =
                publish.partition().isEmpty() ? writing.resolve("part-0." + (isParquet ? "parquet" : "csv")) : writing;
        String columns = publish.quotesFormulas() ? quoted(definition, dialect) : "*";
        stager.execute("copy (select " + columns + " from " + rows + ") to " + dialect.text(target.toString()) + " ("
                + form + partition + (publish.partition().isEmpty() ? "" : ", overwrite_or_ignore true") + ")");
        long number = stager.number("select count(*) from " + rows);
        if (!isHere) {
            stager.dropScratch(ROWS);
        }
        return number;
    }

    /** The columns, in which texts that a spreadsheet would take for formulas get an apostrophe. */
    private String quoted(Definition definition, Dialect dialect) {
        return dialect.list(warehouse.columns(definition.table()), column -> {
            String name = dialect.quote(column.name());
            return !column.type().isText()
                    ? name
                    : "case when substr(" + name + ", 1, 1) in ('=', '+', '-', '@', chr(9), chr(13)) then chr(39) || "
                            + name + " else " + name + " end as " + name;
        });
    }

    private String query(Definition definition, Publish publish) {
        String table = "select * from " + warehouse.table(definition.table());
        boolean isRestricted =
                publish.currentOnly() && definition instanceof Dimension dimension && dimension.hasHistory();
        return isRestricted
                ? table + " where " + definition.conventions().holds(warehouse.dialect(), AuditColumn.IS_CURRENT)
                : table;
    }

    private List<WrittenFile> files(Publish publish, Path writing, String place) throws IOException {
        List<Path> all;
        try (Stream<Path> below = Files.walk(writing)) {
            all = below.filter(Files::isRegularFile).sorted().toList();
        }
        List<WrittenFile> files = new ArrayList<>();
        for (Path file : all) {
            files.add(new WrittenFile(
                    place + "/" + writing.relativize(file).toString().replace('\\', '/'),
                    rows(publish, file),
                    Files.size(file),
                    PublishedFolder.checksum(file)));
        }
        return files;
    }

    private long rows(Publish publish, Path file) {
        Stager stager = warehouse.stager();
        String name = stager.dialect().text(file.toString());
        if (publish.form() == Form.PARQUET) {
            return stager.number("select count(*) from read_parquet(" + name + ", hive_partitioning = false)");
        }
        String rows = "select count(*) from read_csv(" + name
                + ", header = true, all_varchar = true, hive_partitioning = false, delim = ',', quote = '\"', escape = '\"',"
                + " new_line = '\\n'";
        try {
            return stager.number(rows + ")");
        } catch (WarehouseException longerThanUsual) {
            return stager.number(rows + LONG_LINES + ")");
        }
    }
}
