package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.TestStar;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.stream.Stream;
import java.util.zip.GZIPOutputStream;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Spreadsheets write ends of lines into cells of the header, of another kind than those of the lines; no row may be lost. */
@Tag("slow")
class FirstRecordOfSeveralLinesTest {

    @TempDir
    Path folder;

    /** Ends of lines and of lines within a cell, encoding, what begins the file, delimiter, and whether it is packed. */
    static Stream<Arguments> files() {
        return Stream.of("\r\n", "\n", "\r")
                .flatMap(line -> Stream.of("\r\n", "\n", "\r")
                        .flatMap(cell -> Stream.of(
                                Arguments.of(line, cell, "utf-8", "", ",", false),
                                Arguments.of(line, cell, "utf-8", "\uFEFF", ";", false),
                                Arguments.of(line, cell, "utf-8", "", ",", true),
                                Arguments.of(line, cell, "latin-1", "", ";", false),
                                Arguments.of(line, cell, "utf-16", "\uFEFF", ",", false))));
    }

    private static byte[] bytes(String text, String encoding, boolean packed) {
        Charset charset = switch (encoding) {
            case "latin-1" -> StandardCharsets.ISO_8859_1;
            case "utf-16" -> StandardCharsets.UTF_16LE;
            default -> StandardCharsets.UTF_8;
        };
        try (ByteArrayOutputStream bytes = new ByteArrayOutputStream()) {
            if (packed) {
                try (GZIPOutputStream gzip = new GZIPOutputStream(bytes)) {
                    gzip.write(text.getBytes(charset));
                }
            } else {
                bytes.write(text.getBytes(charset));
            }
            return bytes.toByteArray();
        } catch (IOException impossible) {
            throw new UncheckedIOException(impossible);
        }
    }

    @ParameterizedTest
    @MethodSource("files")
    void everyRowBehindSuchAHeaderIsRead(
            String line, String cell, String encoding, String begins, String delimiter, boolean packed) {
        String name = "huts-{date}.csv" + (packed ? ".gz" : "");
        try (TestStar star = new TestStar(folder)) {
            star.write("dimensions/hut.yaml", """
                    dimension: hut
                    from: {files: "%s", extract: full, csv: {encoding: %s, delimiter: "%s"}, columns: {code: varchar}}
                    key: code
                    attributes: {beds: {type: 1, as: integer}}
                    deletions: {absent: close}
                    """.formatted(name, encoding, delimiter));
            String text = begins + "code,beds,\"name%sof the hut\"" + "%s" + "A,1,\"Hütte%seins\"%s" + "B,2,zwei%s";
            star.write(
                    name.replace("{date}", "2026-03-01"),
                    bytes(text.formatted(cell, line, cell, line, line).replace(",", delimiter), encoding, packed));
            assertThat(star.loaded("2026-03-01", "dim_hut").counts())
                    .containsEntry("staged", 2L)
                    .containsEntry("new", 2L);
            assertThat(star.rows("select code, beds from dim_hut where hut_key > 0 order by code"))
                    .containsExactly("A|1", "B|2");
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"\r\n|\n", "\n|\r\n", "\n|\r", "\r\n|\r", "\n|\n"})
    void aFirstRowOfSeveralLinesIsOneRow(String ends) {
        String line = ends.split("\\|")[0];
        String cell = ends.split("\\|")[1];
        try (TestStar star = new TestStar(folder)) {
            star.write("dimensions/hut.yaml", """
                    dimension: hut
                    from: {files: "huts.csv", csv: {header: false}, columns: {code: varchar, beds: integer}}
                    key: code
                    attributes: {beds: type 1}
                    """);
            star.write("huts.csv", "\"A" + cell + "a\",1" + line + "B,2" + line);
            assertThat(star.loaded("2026-03-01", "dim_hut").count("new")).isEqualTo(2);
            assertThat(star.rows("select beds from dim_hut where hut_key > 0 order by beds"))
                    .containsExactly("1", "2");
        }
    }
}
