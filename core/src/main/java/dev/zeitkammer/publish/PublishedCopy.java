package dev.zeitkammer.publish;

import dev.zeitkammer.books.Books;
import dev.zeitkammer.definition.Definition;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.Publish;
import dev.zeitkammer.definition.Publish.Form;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.Sql;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.publish.Manifest.WrittenFile;
import dev.zeitkammer.seal.AlteredValue;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * The rows of a table as they were published, against those that stand: where nothing has been loaded since, they are the same, and
 * what differs is named with its values.
 */
public final class PublishedCopy {

    private static final String STANDING = "zk_standing";

    private final Warehouse warehouse;
    private final Stager stager;
    private final Definition definition;
    private final Path folder;
    private final Manifest manifest;

    private PublishedCopy(Warehouse warehouse, Definition definition, Path folder, Manifest manifest) {
        this.warehouse = warehouse;
        this.stager = warehouse.stager();
        this.definition = definition;
        this.folder = folder;
        this.manifest = manifest;
    }

    /** The copy of a table as its last load left it; empty where there is none with all its rows, or files of it are gone. */
    public static Optional<PublishedCopy> of(Project project, Definition definition, Warehouse warehouse) {
        Optional<Publish> publish =
                definition.publish().filter(each -> each.form() == Form.PARQUET && !each.currentOnly());
        if (publish.isEmpty() || definition.rowKey().isEmpty()) {
            return Optional.empty();
        }
        Path folder = Publishing.folder(project, publish.get());
        Books books = new Books(warehouse);
        long load = books.lastChange(definition.table());
        return Manifest.of(folder)
                .filter(manifest -> manifest.table().equals(definition.table())
                        && manifest.load() == load
                        && manifest.loaded().equals(books.begun(load)))
                .filter(manifest -> new PublishedFolder(folder, project.folder()).holds(manifest, Publishing.CURRENT))
                .map(manifest -> new PublishedCopy(warehouse, definition, folder, manifest));
    }

    /** The values that differ, and the rows that came or went, at most so many. */
    public List<AlteredValue> changed(int most) {
        String standing = warehouse.table(definition.table());
        if (stager != warehouse) {
            warehouse.handOver("select * from " + standing, STANDING);
            standing = STANDING;
        }
        return stager.query(
                query(standing) + "\nlimit " + most,
                row -> new AlteredValue(
                        String.valueOf(row.text(1)), String.valueOf(row.text(2)), row.text(3), row.text(4)));
    }

    private String query(String standing) {
        Dialect dialect = stager.dialect();
        String files = dialect.list(
                manifest.files().stream().map(WrittenFile::file).toList(),
                file -> dialect.text(folder.resolve(file).toString()));
        List<String> parts = new ArrayList<>();
        parts.add(part("row", isThere("p"), isThere("t"), "p.zk_is is null or t.zk_is is null"));
        for (Column column : warehouse.columns(definition.table())) {
            String published = dialect.column("p", column.name());
            String stands = dialect.column("t", column.name());
            parts.add(part(
                    column.name(),
                    dialect.asText(published),
                    dialect.asText(stands),
                    "p.zk_is and t.zk_is and " + dialect.differs(published, stands)));
        }
        return Sql.of("""
                with t as (select *, true as zk_is from ${standing}),
                p as (select *, true as zk_is from read_parquet([${files}], hive_partitioning = false))
                ${parts}""")
                .with("standing", standing)
                .with("files", files)
                .with("parts", String.join("\nunion all\n", parts))
                .text();
    }

    private static String isThere(String alias) {
        return "case when " + alias + ".zk_is then 'there' end";
    }

    private String part(String column, String published, String standing, String condition) {
        Dialect dialect = stager.dialect();
        String row = definition.rowKey().stream()
                .map(name -> "coalesce(" + dialect.asText(dialect.column("t", name)) + ", "
                        + dialect.asText(dialect.column("p", name)) + ")")
                .collect(Collectors.joining(" || ', ' || "));
        return Sql.of("""
                select ${row} as row_key, ${column} as column_name, ${published} as published, ${standing} as standing
                from t full join p on ${same}
                where ${condition}""")
                .with("row", row)
                .with("column", dialect.text(column))
                .with("published", published)
                .with("standing", standing)
                .with("same", dialect.allEqual(definition.rowKey(), "t", "p"))
                .with("condition", condition)
                .text();
    }
}
