package dev.zeitkammer.staging;

import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.engine.PrivateFolder;
import dev.zeitkammer.engine.Stager;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.engine.WarehouseException;
import dev.zeitkammer.staging.text.TextFiles;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.Locale;
import java.util.zip.GZIPOutputStream;

/** Writes rows that were set aside to a file in the form in which they came, to be mended and delivered again. */
public final class RowsBack {

    private final Stager stager;

    public RowsBack(Warehouse warehouse) {
        this.stager = warehouse.stager();
    }

    /**
     * Writes the texts of rows.
     *
     * @param file must not be there yet; compressed when its name ends in gz
     * @throws StagingException when it is there, or cannot be written
     */
    public void write(Path file, RowForm form, List<String> texts) {
        if (Files.exists(file)) {
            throw new StagingException("Cannot write " + file + ": it is there already; name another file");
        }
        try {
            switch (form.kind()) {
                case DELIMITED -> lines(file, form.header(), texts, TextFiles.charset(form.encoding()));
                case JSON_LINES -> lines(file, "", texts, StandardCharsets.UTF_8);
                case JSON_ARRAY -> array(file, texts);
                case PARQUET -> copy(file, texts, "(format parquet)");
                case TABLE -> copy(file, texts, "(format csv, header)");
            }
        } catch (IOException | WarehouseException refused) {
            throw new StagingException("Cannot write " + file + ": " + refused.getMessage(), refused);
        }
    }

    private static void lines(Path file, String header, List<String> texts, Charset charset) throws IOException {
        try (BufferedWriter writer = writer(file, charset)) {
            if (!header.isEmpty()) {
                writer.write(header + "\n");
            }
            for (String text : texts) {
                writer.write(text + "\n");
            }
        }
    }

    private static void array(Path file, List<String> texts) throws IOException {
        try (BufferedWriter writer = writer(file, StandardCharsets.UTF_8)) {
            writer.write("[\n" + String.join(",\n", texts) + "\n]\n");
        }
    }

    private static BufferedWriter writer(Path file, Charset charset) throws IOException {
        OutputStream bytes = Files.newOutputStream(file, StandardOpenOption.CREATE_NEW);
        if (file.toString().toLowerCase(Locale.ROOT).endsWith(".gz")) {
            bytes = new GZIPOutputStream(bytes);
        }
        return new BufferedWriter(new OutputStreamWriter(bytes, charset));
    }

    /** Rows that were kept as JSON become rows of columns again. */
    private void copy(Path file, List<String> texts, String form) throws IOException {
        Dialect dialect = stager.dialect();
        Path objects = PrivateFolder.file(".jsonl");
        try {
            Files.write(objects, texts);
            stager.execute("copy (select * from read_json(" + dialect.text(objects.toString())
                    + ", format = 'newline_delimited', sample_size = -1)) to " + dialect.text(file.toString()) + " "
                    + form);
        } finally {
            Files.delete(objects);
        }
    }
}
