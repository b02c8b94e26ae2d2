package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.TestStar;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

@Tag("slow")
class DelimitedFilesTest {

    private static final String DAY = "2026-03-01";

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void dimensionOfEverythingThatIsStaged() {
        star = new TestStar(folder).write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts*.csv"}
                key: code
                all-others: type 1
                """);
    }

    @AfterEach
    void close() {
        star.close();
    }

    private void input(String details) {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts*.csv", %s}
                key: code
                all-others: type 1
                """.formatted(details));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = ';',
            value = {
                "12,-7,0; BIGINT",
                "007,12; VARCHAR",
                "+41,+49; VARCHAR",
                "1.5,2.25; 'DECIMAL(18,2)'",
                "12345678901234567890,1; 'DECIMAL(38,0)'",
                "1e3,2; DOUBLE",
                "2026-03-01,1999-12-31; DATE",
                "2026-03-01 10:00:00,2026-03-01T10:00; TIMESTAMP",
                "true,FALSE; BOOLEAN",
                "1_000,5; VARCHAR",
                "0x1F,5; VARCHAR",
                "infinity,2026-03-01; VARCHAR",
                "12,twelve; VARCHAR"
            })
    void infersATypeFromAllValues(String values, String type) {
        StringBuilder file = new StringBuilder("code,value\n");
        int number = 0;
        for (String value : values.split(",")) {
            file.append("H").append(number++).append(",").append(value).append("\n");
        }
        star.write("huts.csv", file.toString());
        star.loaded(DAY, "dim_hut");
        assertThat(
                        star.rows(
                                "select data_type from information_schema.columns where table_name = 'dim_hut' and column_name = 'value'"))
                .containsExactly(type);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "integer|12.7",
                "integer|1_000",
                "integer|0x1F",
                "integer|99999999999",
                "integer|twelve",
                "'decimal(6,2)'|1.234",
                "'decimal(6,2)'|99999.5",
                "date|2026-02-30",
                "date|2026-03-01 10:00:00",
                "date|infinity",
                "date|01.03.2026",
                "timestamp|2026-03-01 10:00:00.1234567",
                "timestamp|2026-03-01 10:00:00+02",
                "double|NaN",
                "time|24:00:00",
                "double|1e309",
                "double|-1.5e-400",
                "real|1e-60",
                "boolean|maybe",
                "varchar(3)|four"
            })
    void setsAsideWhatATypeCannotHoldUnchanged(String type, String value) {
        input("columns: {value: \"" + type + "\"}");
        star.write("huts.csv", "code,value\nA," + value + "\nB,\n");
        TableEntry entry = star.loaded(DAY, "dim_hut");
        assertThat(entry.count("setAside")).isEqualTo(1);
        assertThat(entry.count("new")).isEqualTo(1);
        assertThat(star.setAside()).containsExactly("bad value|value|" + value + "|2|A," + value);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "integer|12.0|12",
                "integer|' 12 '|12",
                "integer|+5|5",
                "integer|-0|0",
                "'decimal(6,2)'|1.200|1.20",
                "'decimal(6,2)'|.5|0.50",
                "double|1e3|1000.0",
                "double|0.0e-400|0.0",
                "double|1e-300|1e-300",
                "timestamp|2026-03-01|2026-03-01 00:00:00",
                "timestamp|2026-03-01T10:30|2026-03-01 10:30:00",
                "boolean|Yes|true",
                "varchar|007|007"
            })
    void convertsWhatATypeCanHold(String type, String value, String expected) {
        input("columns: {value: \"" + type + "\"}");
        star.write("huts.csv", "code,value\nA," + value + "\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select cast(value as varchar) from dim_hut where hut_key > 0"))
                .containsExactly(expected);
    }

    @Test
    void readsDatesInTheFormatOfTheInput() {
        input("columns: {since: date}, csv: {delimiter: ';', date-format: \"d.M.yyyy\"}");
        star.write("huts.csv", "code;since\nA;1.3.2026\nB;31.12.1999\nC;31.2.2026\nD;2026-03-01\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, since from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|2026-03-01", "B|1999-12-31");
        assertThat(star.setAside())
                .containsExactly(
                        "bad value|since|31.2.2026|4|C;31.2.2026", "bad value|since|2026-03-01|5|D;2026-03-01");
    }

    @Test
    void ofSeveralFormatsTheFirstCountsThatATextFits() {
        input(
                "columns: {since: date}, csv: {delimiter: ';', date-format: [\"dd.MM.yyyy\", yyyy-MM-dd, \"MM/dd/yyyy\", \"dd/MM/yyyy\"]}");
        star.write(
                "huts.csv",
                "code;since\nA;01.03.2026\nB;1999-12-31\nC;02/03/2026\nD;31/12/2026\nE;1.3.2026\nF;13/13/2026\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, since from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|2026-03-01", "B|1999-12-31", "C|2026-02-03", "D|2026-12-31");
        assertThat(star.setAside()).hasSize(2);
    }

    @Test
    void namesTheLineOfEveryRowSetAsideBehindQuotedLineEndsAndBlankLines() {
        input("columns: {beds: integer}");
        star.write(
                "huts.csv",
                "code,name,beds\r\nA,\"two\r\nlines\",1\r\n\r\nB,short\r\nC,x,many\r\nD,too,1,2\r\n,\"no \"\"key\"\"\",3\r\nE,ok,4\r\n");
        TableEntry entry = star.loaded(DAY, "dim_hut");
        assertThat(entry.count("staged")).isEqualTo(6);
        assertThat(entry.count("new")).isEqualTo(2);
        assertThat(star.setAside())
                .containsExactly(
                        "bad line|null|2 fields, the header has 3|5|B,short",
                        "bad value|beds|many|6|C,x,many",
                        "bad line|null|4 fields, the header has 3|7|D,too,1,2",
                        "blank key|code|null|8|,\"no \"\"key\"\"\",3");
    }

    @Test
    void tellsEmptyTextFromNull() {
        star.write("huts.csv", "code,name\nA,\"\"\nB,\nC,NULL\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, name is null, length(name) from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|false|0", "B|true|null", "C|false|4");
    }

    @Test
    void trimsAndTakesNullWordsWhenAsked() {
        input("trim: true, csv: {null-words: [\"\", \"NULL\", \"-\"]}");
        star.write("huts.csv", "code,name,town\n A ,\"\", x \nB,-,NULL\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, name, town from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|null|x", "B|null|null");
    }

    @Test
    void stagesFilesWithTheirColumnsInAnotherOrderAndCase() {
        star.write("huts-1.csv", "code,name\nA,one\n").write("huts-2.csv", "NAME,Code\ntwo,B\n,\n");
        TableEntry entry = star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, name from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|one", "B|two");
        assertThat(entry.count("setAside")).isEqualTo(1);
        assertThat(star.setAside()).containsExactly("blank key|code|null|3|,");
    }

    @Test
    void refusesFilesWithDifferentColumns() {
        star.write("huts-1.csv", "code,name\nA,one\n").write("huts-2.csv", "code,title\nB,two\n");
        assertThat(star.failure(DAY)).contains("huts-2.csv", "code, title", "code, name");
    }

    @Test
    void readsLatinAndAByteOrderMark() {
        input("csv: {encoding: latin-1}");
        star.write("huts.csv", "code,name\nA,Hütte\n".getBytes(StandardCharsets.ISO_8859_1));
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select name from dim_hut where hut_key > 0")).containsExactly("Hütte");
        input("csv: {encoding: utf-8}");
        star.write("huts.csv", "\uFEFFcode,name\nA,Häuschen\n");
        star.loaded("2026-03-02", "dim_hut");
        assertThat(star.rows("select name from dim_hut where hut_key > 0")).containsExactly("Häuschen");
    }

    @ParameterizedTest
    @ValueSource(strings = {"UTF-16", "UTF-16LE", "x-UTF-16LE-BOM"})
    void readsUtf16WithAndWithoutAMark(String charset) {
        input("csv: {encoding: utf-16}");
        star.write("huts.csv", "code,name\nA,Hütte\nB,x,y\nC,\"Häuschen\n2\"\n".getBytes(Charset.forName(charset)));
        TableEntry entry = star.loaded(DAY, "dim_hut");
        assertThat(entry.count("staged")).isEqualTo(3);
        assertThat(star.rows("select code, name from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|Hütte", "C|Häuschen\n2");
        assertThat(star.setAside()).containsExactly("bad line|null|3 fields, the header has 2|3|B,x,y");
    }

    @Test
    void setsAsideBytesThatAreNotInTheEncoding() {
        star.write("huts.csv", "code,name\nA,Hütte\nB,ok\n".getBytes(StandardCharsets.ISO_8859_1));
        assertThat(star.loaded(DAY, "dim_hut").count("setAside")).isEqualTo(1);
        assertThat(star.setAside().get(0)).startsWith("bad line|null|bytes that are not in the input's encoding|2|");
    }

    @Test
    void refusesAQuoteThatIsNeverClosed() {
        StringBuilder file = new StringBuilder("code,name\n");
        for (int row = 0; row < 200_000; row++) {
            file.append('H').append(row).append(row == 70_000 ? ",\"never\n" : ",some name of a hut\n");
        }
        star.write("huts.csv", file.toString());
        assertThat(star.failure(DAY)).contains("huts.csv:70002", "never closed");
        assertThat(star.rows("select count(*) from zeitkammer.counts")).containsExactly("0");
    }

    @Test
    void saysWhatIsWrongWithAFileThatIsNone() {
        star.write("huts.csv", "");
        assertThat(star.failure(DAY)).contains("huts.csv", "empty");
        star.write("huts.csv", new byte[] {0, 1, 2, 3, 0, 9, 8, 7});
        assertThat(star.failure(DAY)).contains("huts.csv:1", "not text");
        star.write("huts.csv", "code,name,Code\n");
        assertThat(star.failure(DAY)).contains("two columns are named \"Code\"");
        star.write("huts.csv", "\ncode,name\nA,x\n");
        assertThat(star.failure(DAY)).contains("has no name");
    }

    @Test
    void skipsWhatHasNoDeliveryUnlessItIsRequired() {
        assertThat(star.load(DAY).tables().get(0).error()).hasValue("no delivery: no file matches huts*.csv");
        input("required: true");
        assertThat(star.failure(DAY)).contains("requires one");
    }

    @Test
    void stagesOnlyRowsForWhichWhereHolds() {
        input("where: \"beds > 10 or code = 'X'\", columns: {beds: integer}");
        star.write("huts.csv", "code,beds\nA,5\nB,20\nX,many\nC,many\nD,\n");
        TableEntry entry = star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code from dim_hut where hut_key > 0")).containsExactly("B");
        assertThat(star.setAside()).hasSize(2);
        assertThat(entry.count("staged")).isEqualTo(3);
    }

    @Test
    void keepsTheTypesOfTheFirstDeliveryWhenALaterOneHasNoRows() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts*.csv"}
                key: code
                attributes: {places: {type: 1, take: "beds + mattresses"}}
                """);
        star.write("huts.csv", "code,beds,mattresses\nA,5,6\n");
        star.loaded(DAY, "dim_hut");
        star.write("huts.csv", "code,beds,mattresses\n");
        assertThat(star.loaded("2026-03-02", "dim_hut").count("staged")).isZero();
    }

    /** Plain timestamps are shifted like the others where all are stored in UTC. */
    @Test
    void timestampsAreStoredInTheTimeThatIsSaid() {
        for (String zone : List.of("Europe/Zurich", "Europe/Zurich in UTC")) {
            star.write("dimensions/hut.yaml", """
                    dimension: hut
                    from: {files: huts.csv, columns: {seen: timestamp}, time-zone: %s}
                    key: code
                    attributes: {seen: type 1}
                    """.formatted(zone))
                    .write("huts.csv", "code,seen\nA,2026-01-01 12:00:00\nB,2026-01-01 12:00:00+03:00\n");
            star.loaded(DAY, "dim_hut");
            assertThat(star.rows("select code, seen from dim_hut where hut_key > 0 order by 1"))
                    .as(zone)
                    .containsExactlyElementsOf(
                            zone.endsWith("UTC")
                                    ? List.of("A|2026-01-01 11:00:00.0", "B|2026-01-01 09:00:00.0")
                                    : List.of("A|2026-01-01 12:00:00.0", "B|2026-01-01 10:00:00.0"));
        }
    }
}
