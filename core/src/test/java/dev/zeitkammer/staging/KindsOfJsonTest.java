package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.zeitkammer.books.TableEntry;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.Test;

/** Huts in files of JSON: an object a line, or one list. */
class KindsOfJsonTest extends FilesOfHuts {

    @Test
    void jsonThatIsNotInUtf8IsRefused() {
        star.write("dimensions/hut.yaml", "dimension: hut\nfrom: {files: huts.jsonl}\nkey: code\nall-others: type 1\n")
                .write("huts.jsonl", "{\"code\":\"ü\"}\n".getBytes(StandardCharsets.ISO_8859_1));
        assertThat(star.failure(DAY)).contains("huts.jsonl", "it is not text in UTF-8");
    }

    @Test
    void readsOneObjectALineAndNamesTheLinesThatAreNone() {
        input("huts.jsonl", "");
        star.write("huts.jsonl", LINES + "{\"code\": \"H3\",\n[1, 2]\n   \n{\"code\": \"H4\", \"beds\": 12.7}\n");
        TableEntry entry = star.loaded(DAY, "dim_hut");
        assertThat(entry.count("staged")).isEqualTo(5);
        assertThat(star.rows("select code from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("H1", "H2");
        assertThat(star.setAside())
                .containsExactly(
                        "bad line|null|this is no JSON object|4|{\"code\": \"H3\",",
                        "bad line|null|this is no JSON object|5|[1, 2]",
                        "bad value|beds|12.7|7|{\"code\": \"H4\", \"beds\": 12.7}");
    }

    @Test
    void readsAnArrayOfObjects() {
        input("huts.json", "");
        star.write(
                "huts.json",
                "[" + LINES.strip().replace("\n\n", ",\n") + ", {\"code\": \"H3\", \"beds\": \"many\"}, 5]\n");
        loadsWhatIsExpected();
        assertThat(star.setAside())
                .containsExactly(
                        "bad value|beds|many|3|{\"code\": \"H3\", \"beds\": \"many\"}",
                        "bad line|null|this is no JSON object|4|5");
    }

    @Test
    void keepsEveryDigitOfNumbersInJson() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: huts.jsonl, columns: {exact: "decimal(38,18)", whole: "decimal(38,0)"}}
                key: code
                all-others: type 1
                """)
                .write(
                        "huts.jsonl",
                        "{\"code\": \"A\", \"exact\": 1234567.890123456789012345, \"whole\": 98765432109876543210987}\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select exact, whole from dim_hut where code = 'A'"))
                .containsExactly("1234567.890123456789012345|98765432109876543210987");
    }

    @Test
    void refusesJsonThatCannotBeRead() {
        input("huts.json", "");
        star.write("huts.json", "[{\"code\": \"H1\"},\n{\"code\": \n");
        assertThat(star.failure(DAY)).contains("huts.json", "Malformed JSON");
        star.write("huts.json", "{\n\"code\": \"H1\"\n}\n");
        assertThat(star.failure(DAY)).contains("huts.json:1", "one object a line");
        star.write("huts.json", "{\"code\": \"H1\", \"Code\": 2}\n");
        assertThat(star.failure(DAY)).contains("both \"code\" and \"Code\"");
    }

    @Test
    void datesAndTimesInJsonHaveFormatsAndZonesToo() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: huts.jsonl, columns: {opened: date, seen: timestamp}, json: {date-format: ["d.M.yyyy", yyyy/MM/dd]}, time-zone: Europe/Zurich}
                key: code
                all-others: type 1
                """)
                .write(
                        "huts.jsonl",
                        "{\"code\": \"A\", \"opened\": \"3.4.2026\", \"seen\": \"2026-07-01T08:00:00+00:00\"}\n"
                                + "{\"code\": \"B\", \"opened\": \"2026/04/05\", \"seen\": \"2026-07-01T08:00:00\"}\n"
                                + "{\"code\": \"C\", \"opened\": \"2026-04-05\", \"seen\": \"2026-07-01T08:00:00Z\"}\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, opened, seen from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|2026-04-03|2026-07-01 10:00:00.0", "B|2026-04-05|2026-07-01 08:00:00.0");
        assertThat(star.setAside()).singleElement().asString().startsWith("bad value|opened|2026-04-05|3|");
        star.write(
                "dimensions/hut.yaml",
                star.read("dimensions/hut.yaml").replace("json: {", "csv: {").replace("Europe/Zurich", "Swiss"));
        assertThatThrownBy(() -> star.load(DAY))
                .hasMessageContainingAll(
                        "\"csv\" is about delimited files",
                        "\"time-zone\" is \"Swiss\"; expected the name of a time zone");
    }
}
