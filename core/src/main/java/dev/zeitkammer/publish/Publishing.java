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
import dev.zeitkammer.engine.ZeitkammerException;
import dev.zeitkammer.publish.Manifest.NamedColumn;
import dev.zeitkammer.publish.Manifest.WrittenFile;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.PosixFilePermission;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.HexFormat;
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

    private static final String CURRENT = "current";
    private static final String WRITING = ".writing-";
    private static final String LOAD = "load-";
    private static final String ROWS = "zk_published";

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

    private static Path folder(Project project, Publish publish) {
        return project.folder().resolve(publish.to().text()).normalize();
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
        long load = new Books(warehouse).lastChange(definition.table());
        Manifest wanted = manifest(definition, publish, columns, load, List.of(), 0, "");
        Optional<Manifest> before = Manifest.of(folder);
        if (before.filter(manifest -> manifest.load() == load && manifest.isLike(wanted))
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
            return written(definition, publish, folder, wanted);
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

    private Manifest manifest(
            Definition definition,
            Publish publish,
            List<Column> columns,
            long load,
            List<WrittenFile> files,
            long rows,
            String folder) {
        return new Manifest(
                definition.table(),
                load,
                clock.instant().truncatedTo(ChronoUnit.SECONDS).toString(),
                publish.form().name().toLowerCase(Locale.ROOT),
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

    private Published written(Definition definition, Publish publish, Path folder, Manifest wanted) throws IOException {
        Files.createDirectories(folder);
        removeUnfinished(folder);
        Path writing = Files.createDirectory(folder.resolve(WRITING + wanted.load()));
        long rows = copy(definition, publish, writing);
        Path place = free(folder, wanted.load());
        List<WrittenFile> files = files(publish, writing, place.getFileName().toString());
        long inFiles = files.stream().mapToLong(WrittenFile::rows).sum();
        if (inFiles != rows) {
            throw new LostRowsException("the files hold " + inFiles + " rows, and the table has " + rows);
        }
        open(folder);
        open(writing);
        Files.move(writing, place, StandardCopyOption.ATOMIC_MOVE);
        point(folder, place);
        new Manifest(
                        wanted.table(),
                        wanted.load(),
                        wanted.written(),
                        wanted.form(),
                        wanted.versions(),
                        wanted.partition(),
                        wanted.columns(),
                        rows,
                        place.getFileName().toString(),
                        files)
                .write(folder);
        open(folder.resolve(Manifest.FILE));
        removeOld(folder, place, publish);
        return new Published(
                definition.table(),
                folder,
                true,
                wanted.load(),
                rows,
                files.size(),
                files.stream().mapToLong(WrittenFile::bytes).sum());
    }

    /** Makes what was written as open to others as the folder of the project, since it is meant for them. */
    private void open(Path path) throws IOException {
        if (!path.getFileSystem().supportedFileAttributeViews().contains("posix")) {
            return;
        }
        Set<PosixFilePermission> others = EnumSet.copyOf(Files.getPosixFilePermissions(project.folder()));
        try (Stream<Path> below = Files.walk(path)) {
            for (Path each : below.filter(file -> !Files.isSymbolicLink(file)).toList()) {
                Set<PosixFilePermission> open = EnumSet.copyOf(Files.getPosixFilePermissions(each));
                others.stream()
                        .filter(permission ->
                                Files.isDirectory(each) || permission.name().endsWith("READ"))
                        .forEach(open::add);
                Files.setPosixFilePermissions(each, open);
            }
        }
    }

    /** A name that no earlier files have. */
    private static Path free(Path folder, long load) {
        Path place = folder.resolve(LOAD + load);
        for (int again = 2; Files.exists(place); again++) {
            place = folder.resolve(LOAD + load + "-" + again);
        }
        return place;
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
        stager.execute("copy (select * from " + rows + ") to " + dialect.text(target.toString()) + " (" + form
                + partition + (publish.partition().isEmpty() ? "" : ", overwrite_or_ignore true") + ")");
        long number = stager.number("select count(*) from " + rows);
        if (!isHere) {
            stager.dropScratch(ROWS);
        }
        return number;
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
                    checksum(file)));
        }
        return files;
    }

    private long rows(Publish publish, Path file) {
        Dialect dialect = warehouse.stager().dialect();
        String name = dialect.text(file.toString());
        return warehouse
                .stager()
                .number(
                        "select count(*) from "
                                + (publish.form() == Form.PARQUET
                                        ? "read_parquet(" + name + ", hive_partitioning = false)"
                                        : "read_csv(" + name
                                                + ", header = true, all_varchar = true, hive_partitioning = false, delim = ',', quote = '\"', escape = '\"')"));
    }

    private static String checksum(Path file) throws IOException {
        try (InputStream bytes = Files.newInputStream(file);
                DigestInputStream digested = new DigestInputStream(bytes, MessageDigest.getInstance("SHA-256"))) {
            digested.transferTo(OutputStream.nullOutputStream());
            return HexFormat.of().formatHex(digested.getMessageDigest().digest());
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /** The link by which readers find the files of the newest load: it points at the old ones, or at the new ones. */
    private static void point(Path folder, Path place) throws IOException {
        Path beside = folder.resolve(WRITING + CURRENT);
        Files.deleteIfExists(beside);
        try {
            Files.createSymbolicLink(beside, place.getFileName());
        } catch (UnsupportedOperationException noLinks) {
            return; // readers there go by the manifest
        }
        Files.move(
                beside, folder.resolve(CURRENT), StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    /** Removes what a publishing left that was cut off. */
    private static void removeUnfinished(Path folder) throws IOException {
        try (Stream<Path> below = Files.list(folder)) {
            for (Path each : below.toList()) {
                if (each.getFileName().toString().startsWith(WRITING)) {
                    remove(each);
                }
            }
        }
    }

    private void removeOld(Path folder, Path place, Publish publish) throws IOException {
        Instant before = clock.instant().minus(publish.keptFor());
        try (Stream<Path> below = Files.list(folder)) {
            for (Path each : below.toList()) {
                boolean isOld = each.getFileName().toString().startsWith(LOAD)
                        && !each.equals(place)
                        && !Files.getLastModifiedTime(each).toInstant().isAfter(before);
                if (isOld) {
                    remove(each);
                }
            }
        }
    }

    private static void remove(Path path) throws IOException {
        if (Files.isSymbolicLink(path)) {
            Files.delete(path);
            return;
        }
        try (Stream<Path> below = Files.walk(path)) {
            for (Path each : below.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(each);
            }
        }
    }
}
