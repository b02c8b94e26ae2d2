package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.load.TestStar;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.zip.GZIPOutputStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Files with values that are longer than the engine's readers expect, and files of no rows. */
@Tag("slow")
class LongAndEmptyFilesTest {

    private static final String DAY = "2026-03-01";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void star() {
        star = new TestStar(folder);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void hut(String files) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "%s", columns: {code: varchar, story: varchar, beds: integer}}
                key: code
                attributes: {story: type 1, beds: type 1}
                """.formatted(files));
    }

    private void everyRowIsThere(int length) {
        assertThat(star.loaded(DAY, "dim_hut").counts())
                .containsEntry("staged", 4L)
                .containsEntry("new", 3L)
                .containsEntry("setAside", 1L);
        assertThat(star.rows("select code, length(story), beds from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|1|1", "B|" + length + "|2", "C|1|3");
        assertThat(star.setAside()).hasSize(1).allMatch(row -> row.startsWith("bad value|beds|many|"));
    }

    @ParameterizedTest
    @ValueSource(ints = {1_990_000, 3_000_000, 40_000_000})
    void aLongValueIsNotLost(int length) {
        hut("huts.csv");
        star.write("huts.csv", "code,story,beds\nA,a,1\nB," + "x".repeat(length) + ",2\nC,c,3\nD,d,many\n");
        everyRowIsThere(length);
    }

    @ParameterizedTest
    @ValueSource(ints = {3_000, 40_000})
    void aValueOfManyLinesIsNotLost(int lines) {
        hut("huts.csv");
        star.write(
                "huts.csv",
                "code,story,beds\nA,a,1\nB,\"" + ("x".repeat(999) + "\n").repeat(lines) + "\",2\nC,c,3\nD,d,many\n");
        everyRowIsThere(lines * 1000);
    }

    @Test
    void aLongValueOfAPackedFileIsNotLost() throws IOException {
        hut("huts.csv.gz");
        String text = "code,story,beds\nA,a,1\nB," + "x".repeat(35_000_000) + ",2\nC,c,3\nD,d,many\n";
        ByteArrayOutputStream packed = new ByteArrayOutputStream();
        try (GZIPOutputStream zip = new GZIPOutputStream(packed)) {
            zip.write(text.getBytes(StandardCharsets.UTF_8));
        }
        star.write("huts.csv.gz", packed.toByteArray());
        everyRowIsThere(35_000_000);
    }

    @ParameterizedTest
    @ValueSource(strings = {"huts.jsonl", "huts.json"})
    void aLongValueOfJsonIsNotLost(String file) {
        hut(file);
        String rows = "{\"code\": \"A\", \"story\": \"a\", \"beds\": 1}\n{\"code\": \"B\", \"story\": \""
                + "x".repeat(20_000_000)
                + "\", \"beds\": 2}\n{\"code\": \"C\", \"story\": \"c\", \"beds\": 3}\n"
                + "{\"code\": \"D\", \"story\": \"d\", \"beds\": \"many\"}\n";
        star.write(file, file.endsWith("l") ? rows : "[" + rows.strip().replace("\n", ",") + "]");
        everyRowIsThere(20_000_000);
    }

    /** Also where another object inside has a number of the same name, or a text looks like one. */
    @Test
    void everyDigitOfANumberOfJsonIsKept() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: huts.json, columns: {code: varchar, n: "decimal(38,9)", story: varchar, inside: varchar}}
                        key: code
                        attributes: {n: type 1, story: type 1, inside: type 1}
                        """)
                .write(
                        "huts.json",
                        "[{\"code\":\"A\",\"before\":{\"n\":1},\"n\":12345678901234567.123456789,"
                                + "\"story\":\"\\\"n\\\": 12345678901234567.5, x\","
                                + "\"inside\":{\"z\":[-12345678901234567.123456789,1]}}]");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select n, story, inside from dim_hut where hut_key > 0"))
                .containsExactly(
                        "12345678901234567.123456789|\"n\": 12345678901234567.5, x|{\"z\":[-12345678901234567.123456789,1]}");
    }

    @ParameterizedTest
    @ValueSource(strings = {"[]", "", "[\n \n]\n", "\n"})
    void aFileOfNoObjectsIsADeliveryOfNoRows(String nothing) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.json", where: "beds > 0", extract: full}
                key: code
                attributes: {beds: type 1, places: {take: "beds * 2", type: 2, as: integer}}
                all-others: type 1
                history: {effective: since}
                deletions: {absent: close}
                """)
                .write("huts-2026-03-01.json", "[{\"code\":\"A\",\"beds\":3,\"since\":\"2026-03-01\",\"more\":7}]")
                .write("huts-2026-03-02.json", nothing);
        star.loaded(DAY, "dim_hut");
        assertThat(star.loaded("2026-03-02", "dim_hut").counts())
                .containsEntry("staged", 0L)
                .containsEntry("absent", 1L);
    }

    /** Where the engine reaches nothing but the folders of deliveries, as in every command. */
    @ParameterizedTest
    @ValueSource(strings = {"csv", "jsonl", "json", "parquet"})
    void linksAreFollowed(String kind, @TempDir Path elsewhere) throws IOException {
        hut("in/huts." + kind);
        Path away = Files.createDirectories(folder.resolve("away"));
        Files.createDirectories(folder.resolve("in"));
        star.write("away/huts.csv", "code,story,beds\nA,x,3\n")
                .write("away/huts.jsonl", "{\"code\": \"A\", \"story\": \"x\", \"beds\": 3}\n")
                .write("away/huts.json", "[{\"code\": \"A\", \"story\": \"x\", \"beds\": 3}]\n");
        star.warehouse()
                .stager()
                .execute("copy (select 'A' as code, 'x' as story, 3 as beds) to '" + away.resolve("huts.parquet")
                        + "' (format parquet)");
        Path there = Files.move(away.resolve("huts." + kind), elsewhere.resolve("huts." + kind));
        Files.createSymbolicLink(folder.resolve("in/huts." + kind), there);
        assertThat(star.loaded(DAY, "dim_hut").count("new")).isEqualTo(1);
        assertThat(star.rows("select code, story, beds from dim_hut where hut_key > 0"))
                .containsExactly("A|x|3");
    }

    /** Neither is a missing delivery, which would be skipped. */
    @Test
    void linksToNowhereAndPipesAreErrors() throws IOException, InterruptedException {
        hut("in/huts*.csv");
        star.write("in/notes.txt", "");
        Path link = folder.resolve("in/huts.csv");
        Files.createSymbolicLink(link, folder.resolve("in/gone.csv"));
        assertThat(star.failure(DAY)).contains("in/huts.csv", "leads nowhere");
        hut("in/huts.csv");
        assertThat(star.failure(DAY)).contains("in/huts.csv", "leads nowhere");
        Files.delete(link);
        Files.createSymbolicLink(link, link);
        assertThat(star.failure(DAY)).contains("in/huts.csv", "leads nowhere");
        hut("in/huts.csv/x.csv");
        assertThat(star.failure(DAY)).contains("Cannot tell whether in/huts.csv/x.csv is there", "circle");
        Files.delete(link);
        Files.createSymbolicLink(folder.resolve("in/again"), folder.resolve("in"));
        hut("in/**.csv");
        assertThat(star.failure(DAY)).contains("in/again", "circle");
        Files.delete(folder.resolve("in/again"));
        hut("in/huts.csv");
        assertThat(new ProcessBuilder("mkfifo", link.toString()).start().waitFor())
                .isZero();
        assertThat(star.failure(DAY)).contains("in/huts.csv", "a pipe or a device");
    }
}
