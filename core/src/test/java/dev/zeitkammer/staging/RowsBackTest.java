package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.Journal;
import dev.zeitkammer.books.SetAsideRow;
import dev.zeitkammer.load.TestStar;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Rows set aside, written back and delivered again: what was bad once is bad again, and good once mended at the source. */
class RowsBackTest {

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

    private void input(String from) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {%s, columns: {beds: integer}}
                key: code
                attributes: {beds: type 1}
                """.formatted(from));
    }

    private List<SetAsideRow> setAside() {
        return new Journal(star.warehouse()).setAside(Optional.empty());
    }

    private void writeBack(Path file) {
        Journal journal = new Journal(star.warehouse());
        List<SetAsideRow> rows = setAside();
        new RowsBack(star.warehouse())
                .write(
                        file,
                        journal.form(rows.get(0)).orElseThrow(),
                        rows.stream().map(SetAsideRow::text).toList());
    }

    @ParameterizedTest
    @ValueSource(strings = {"csv", "tsv", "csv.gz", "jsonl", "json", "parquet"})
    void comeBackInTheFormInWhichTheyCame(String kind) {
        star.warehouse()
                .execute(
                        "create table source as select * from (values ('A', '1', 'é'), ('B', 'many', 'ü, \"x\"'), ('C', 'few', null))"
                                + " as t(code, beds, note)");
        String form = switch (kind) {
            case "tsv" -> "(format csv, header, delimiter '\t')";
            case "jsonl" -> "(format json)";
            case "json" -> "(format json, array true)";
            case "parquet" -> "(format parquet)";
            default -> "(format csv, header)";
        };
        star.warehouse().execute("copy source to '" + folder.resolve("huts." + kind) + "' " + form);
        input("files: \"huts." + kind + "\"");
        assertThat(star.loaded("2026-03-01", "dim_hut").count("setAside")).isEqualTo(2);
        writeBack(folder.resolve("back." + kind));
        input("files: \"back." + kind + "\"");
        assertThat(star.loaded("2026-03-02", "dim_hut").count("setAside")).isEqualTo(2);
        assertThat(setAside()).extracting(SetAsideRow::value).containsExactly("many", "few", "many", "few");
        star.warehouse().execute("update source set beds = '5'");
        assertThatThrownBy(() -> writeBack(folder.resolve("back." + kind))).hasMessageContaining("it is there already");
    }

    @Test
    void rowsOfTablesComeBackAsCsv() {
        star.warehouse().execute("create table source as select 'B' as code, 'many' as beds, 'a, b' as note");
        input("table: source");
        star.loaded("2026-03-01", "dim_hut");
        writeBack(folder.resolve("back.csv"));
        input("files: back.csv");
        star.loaded("2026-03-02", "dim_hut");
        assertThat(star.setAside()).last().isEqualTo("bad value|beds|many|2|B,many");
    }

    @Test
    void keepTheirEncodingAndDelimiter() {
        star.write("huts.csv", "code;beds;note\nB;many;Hütte\n".getBytes(StandardCharsets.UTF_16));
        input("files: huts.csv, csv: {delimiter: \";\", encoding: utf-16}");
        star.loaded("2026-03-01", "dim_hut");
        assertThat(star.setAside()).containsExactly("bad value|beds|many|2|B;many;Hütte");
        writeBack(folder.resolve("back.csv"));
        input("files: back.csv, csv: {delimiter: \";\", encoding: utf-16}");
        star.loaded("2026-03-02", "dim_hut");
        assertThat(star.setAside()).last().isEqualTo("bad value|beds|many|2|B;many;Hütte");
    }
}
