package dev.zeitkammer.publish;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonProperty;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import dev.zeitkammer.engine.ZeitkammerException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What readers of published files go by: which files belong together, and what they hold.
 *
 * @param load the load that last changed the table
 * @param loaded when that load began, in UTC
 * @param folder the folder of the files, beside the manifest
 * @param formulas what became of texts that begin like one: quoted; null: they are as they are
 * @param versions all or current
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Manifest(
        @JsonProperty("table") String table,
        @JsonProperty("load") long load,
        @JsonProperty("loaded") String loaded,
        @JsonProperty("written") String written,
        @JsonProperty("as") String form,
        @JsonProperty("formulas") @Nullable String formulas,
        @JsonProperty("versions") String versions,
        @JsonProperty("partition") List<String> partition,
        @JsonProperty("columns") List<NamedColumn> columns,
        @JsonProperty("rows") long rows,
        @JsonProperty("folder") String folder,
        @JsonProperty("files") List<WrittenFile> files) {

    static final String FILE = "manifest.json";

    private static final ObjectMapper JSON = new ObjectMapper()
            .enable(SerializationFeature.INDENT_OUTPUT)
            .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES);

    /** A column with its type. */
    public record NamedColumn(
            @JsonProperty("name") String name,
            @JsonProperty("type") String type) {}

    /**
     * A file.
     *
     * @param file its path below the folder of the manifest
     * @param sha256 the checksum of its bytes, in hexadecimal digits
     */
    public record WrittenFile(
            @JsonProperty("file") String file,
            @JsonProperty("rows") long rows,
            @JsonProperty("bytes") long bytes,
            @JsonProperty("sha256") String sha256) {}

    /** The manifest of a folder; empty where there is none, or none that can be read. */
    static Optional<Manifest> of(Path folder) {
        Path file = folder.resolve(FILE);
        if (!Files.isRegularFile(file)) {
            return Optional.empty();
        }
        try {
            return Optional.of(JSON.readValue(file.toFile(), Manifest.class));
        } catch (IOException unreadable) {
            return Optional.empty();
        }
    }

    /** Puts it in place at once. */
    void write(Path folder) {
        Path beside = folder.resolve("." + FILE + ".writing");
        try {
            Files.writeString(beside, JSON.writeValueAsString(this) + "\n");
            try (FileChannel channel = FileChannel.open(beside, StandardOpenOption.WRITE)) {
                channel.force(true);
            }
            Files.move(
                    beside, folder.resolve(FILE), StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (JsonProcessingException impossible) {
            throw new UncheckedIOException(impossible);
        } catch (IOException refused) {
            throw new ZeitkammerException(
                    "Cannot write " + folder.resolve(FILE) + ": " + refused.getMessage(), refused);
        }
    }

    /** The same of files that were written. */
    Manifest with(long rows, String folder, List<WrittenFile> files) {
        return new Manifest(
                table, load, loaded, written, form, formulas, versions, partition, columns, rows, folder, files);
    }

    /**
     * Whether the files are what would be written now: of the same table, load and moment, which no other warehouse has, in the same
     * form.
     */
    boolean isLike(Manifest other) {
        return table.equals(other.table)
                && load == other.load
                && !other.loaded.isEmpty()
                && other.loaded.equals(loaded)
                && form.equals(other.form)
                && Objects.equals(formulas, other.formulas)
                && versions.equals(other.versions)
                && partition.equals(other.partition)
                && columns.equals(other.columns);
    }
}
