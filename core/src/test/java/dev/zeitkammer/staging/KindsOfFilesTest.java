package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.spy;
import static org.mockito.Mockito.when;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.engine.Column;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.load.TestStar;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The same rows in text files of every kind, and what is wrong with some of them. */
@Tag("slow")
class KindsOfFilesTest extends FilesOfHuts {

    private List<String> huts(String file, String details, byte[] bytes) {
        star.close();
        star = new TestStar(folder);
        star.write(
                        "dimensions/hut.yaml",
                        "dimension: hut\nfrom: {files: %s%s}\nkey: code\nall-others: type 1\n".formatted(file, details))
                .write(file, bytes);
        star.loaded(DAY, "dim_hut");
        return star.rows("select * from dim_hut where hut_key > 0 order by code").stream()
                .map(row -> row.replaceAll("\\|(false|true)\\|source.*", "").replaceAll("^\\d+\\|", ""))
                .toList();
    }

    @Test
    void oddFilesAreReadAsTheyAre() {
        List<String> usual = List.of("A|1", "B|2", "C|3");
        for (String text :
                List.of("code,n\r\nA,1\nB,2\r\nC,3\n", "code,n\r\nA,1\nB,2\nC,3", "code,n\n\rA,1\n\rB,2\n\rC,3\n\r")) {
            assertThat(huts("huts.csv", "", text.getBytes(StandardCharsets.UTF_8)))
                    .as(text)
                    .isEqualTo(usual);
        }
        assertThat(huts(
                        "huts.csv",
                        ", csv: {encoding: utf-16}",
                        "\uFEFFcode,n\nA,x😀y\n".getBytes(StandardCharsets.UTF_16LE)))
                .containsExactly("A|x😀y");
        assertThat(huts(
                        "huts.csv",
                        ", csv: {encoding: latin-1}",
                        "code,n\nA,\u0080\u0085ü\n".getBytes(StandardCharsets.ISO_8859_1)))
                .containsExactly("A|\u0080\u0085ü");
        assertThat(huts("huts.csv", "", "code,zk_row,zk_file,zk_filename\nA,1,2,3\n".getBytes(StandardCharsets.UTF_8)))
                .containsExactly("A|1|2|3");
        assertThat(star.warehouse().columns("dim_hut").stream().map(Column::name))
                .contains("staged_zk_row", "staged_zk_file", "staged_zk_filename");
        String large = "x".repeat(3_000_000);
        assertThat(huts(
                        "huts.jsonl",
                        "",
                        ("{\"code\":\"A\",\"n\":\"" + large + "\",\"\":1}\n").getBytes(StandardCharsets.UTF_8)))
                .containsExactly("A|" + large + "|1");
    }

    @Test
    void namesOfFilesAndFoldersAreTakenAsTheyAre() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: "region=north/day={date}/h*.csv"}
                        key: code
                        all-others: type 1
                        """)
                .write("region=north/day=" + DAY + "/h1.csv", "code,region\nA,south\n")
                .write("region=north/day=" + DAY + "/h[1].csv", "code,region\nB,east\n")
                .write("region=north/day=" + DAY + "/h?*.csv", "code,region\nC,\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, region from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|south", "B|east", "C|null");
    }

    @Test
    void numbersWithoutEndAndControlCharactersAreNotTakenForOtherValues() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: huts.csv, columns: {rate: double, note: varchar}}
                        key: code
                        attributes: {rate: type 1, note: type 1}
                        """)
                .write("huts.csv", "code,rate,note\nA,1e308,\u0001\nB,1e309,x\nC,-inf,x\nD,,\n");
        assertThat(star.loaded(DAY, "dim_hut").counts())
                .containsEntry("new", 2L)
                .containsEntry("setAside", 2L);
        assertThat(star.rows("select code, note from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|\u0001", "D|null");
    }

    @Test
    void aValueThatIsNoNumberIsNoMark() {
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "stays-{date}.parquet", newer-than: seen}
                append: true
                degenerate: [no]
                """);
        for (String day : List.of("2026-03-01", "2026-03-02")) {
            star.warehouse()
                    .stager()
                    .execute("copy (select * from (values (1, " + (day.endsWith("1") ? "1.5" : "2.5")
                            + "::double), (2, 'NaN'::double)) as t(no, seen)) to " + path("stays-" + day + ".parquet")
                            + " (format parquet)");
        }
        assertThat(star.loaded("2026-03-01", "fact_stay").counts())
                .containsEntry("new", 1L)
                .containsEntry("setAside", 1L);
        assertThat(star.loaded("2026-03-02", "fact_stay").count("new")).isEqualTo(1);
    }

    @Test
    void aColumnNamedLikeThePlaceOfARowIsOneLikeOthers() {
        assertThat(huts("huts.csv", "", "code,rowid\nA,7\nB,7\nC,7\n".getBytes(StandardCharsets.UTF_8)))
                .containsExactly("A|7", "B|7", "C|7");
        assertThat(star.loaded(DAY, "dim_hut").count("unchanged")).isEqualTo(3);
    }

    @Test
    void aFileThatChangesWhileItIsReadIsRefused() {
        input("huts.csv", "");
        star.write("huts.csv", CSV);
        Warehouse warehouse = spy(star.warehouse());
        when(warehouse.stager()).thenReturn(warehouse);
        doAnswer(call -> {
                    Object done = call.callRealMethod();
                    if ("zk_read".equals(call.getArgument(0))) {
                        star.write("huts.csv", CSV + "H3,,7,,1999-12-31,,false\n");
                    }
                    return done;
                })
                .when(warehouse)
                .keep(anyString(), anyString());
        LoadEntry load = new Loader(star.project(), warehouse, LoadListener.NONE, Clock.systemUTC())
                .load(Request.everything(LoadDate.parse(DAY)));
        assertThat(load.tables().get(0).error().orElseThrow())
                .contains("huts.csv: it was changed while it was being read");
        assertThat(star.loaded(DAY, "dim_hut").count("new")).isEqualTo(3);
    }

    @Test
    void aDamagedFileIsRefusedWithItsName() {
        input("huts.csv.gz", "");
        byte[] packed = gzip(CSV);
        byte[] wrong = packed.clone();
        wrong[packed.length - 6] ^= 1;
        star.write("huts.csv.gz", wrong);
        assertThat(star.failure(DAY)).contains("huts.csv.gz", "it is damaged");
        star.write("huts.csv.gz", Arrays.copyOf(packed, packed.length - 20));
        assertThat(star.failure(DAY)).contains("huts.csv.gz", "it is damaged");
        star.write("huts.csv.gz", CSV.getBytes(StandardCharsets.UTF_8));
        assertThat(star.failure(DAY)).contains("huts.csv.gz", "not packed as its name says");
        star.write("huts.csv.gz", packed);
        loadsWhatIsExpected();
        input("huts.csv.zst", "");
        star.write("huts.csv.zst", packed);
        assertThat(star.failure(DAY)).contains("huts.csv.zst", "not packed as its name says");
        input("huts.csv", "");
        byte[] whole = "code,name\nH1,Hütte ü".getBytes(StandardCharsets.UTF_8);
        star.write("huts.csv", Arrays.copyOf(whole, whole.length - 1));
        assertThat(star.failure(DAY)).contains("huts.csv", "it ends in the middle of a character");
    }

    @Test
    void inputsOfADimensionAndAFactOfOneNameDecideTheirTypesApart() {
        star.write("dimensions/hut.yaml", """
                        dimension: hut
                        from: {files: huts.csv}
                        key: code
                        attributes: {note: type 1}
                        """)
                .write("facts/hut.yaml", """
                        fact: hut
                        from: {files: "visits-{date}.csv"}
                        grain: [no]
                        lookups: {hut: {match: code}}
                        degenerate: [note]
                        """)
                .write("huts.csv", "code,note\nA,7\n")
                .write("visits-" + DAY + ".csv", "no,code,note\n1,A,seven\n");
        assertThat(star.loaded(DAY, "fact_hut").counts())
                .containsEntry("new", 1L)
                .containsEntry("setAside", 0L);
    }

    @Test
    void readsTabsAndOtherDelimiters() {
        input("huts.tsv", "");
        star.write(
                        "huts.tsv",
                        CSV.replace("\"Grosse Hütte, oben\"", "Grosse Hütte; oben")
                                .replace(',', '\t'))
                .write(
                        "huts.tsv",
                        "code\tname\tbeds\trate\tsince\tseen\topen\n"
                                + "H1\tGrosse Hütte, oben\t40\t12.50\t2026-03-01\t2026-03-01 10:30:00\ttrue\n"
                                + "H2\t\t7\t\t1999-12-31\t\tfalse\n");
        loadsWhatIsExpected();
    }

    @Test
    void readsNumbersDatesAndTimesAsTheyAreWrittenElsewhere() {
        input(
                "huts.csv",
                ", csv: {delimiter: ';', decimal: ',', thousands: '.', date-format: d.M.yyyy,"
                        + " timestamp-format: 'd.M.yyyy HH.mm'}");
        star.write("huts.csv", """
                code;name;beds;rate;since;seen;open
                H1;Grosse Hütte, oben;40;12,5;1.3.2026;1.3.2026 10.30;true
                H2;;7;;31.12.1999;;false
                H3;;1.234;1.234,50;31.12.1999;;false
                H4;;12.34;;31.12.1999;;false
                H5;;7;12.50;31.12.1999;;false
                """);
        assertThat(star.loaded(DAY, "dim_hut").count("new")).isEqualTo(3);
        assertThat(star.rows("select beds, rate from dim_hut where code = 'H3'"))
                .containsExactly("1234|1234.50");
        assertThat(star.setAside())
                .containsExactly(
                        "bad value|beds|12.34|5|H4;;12.34;;31.12.1999;;false",
                        "bad value|rate|12.50|6|H5;;7;12.50;31.12.1999;;false");
    }

    @Test
    void infersNumbersWithADecimalComma() {
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: huts.csv, csv: {delimiter: ";", decimal: ","}}
                key: code
                all-others: type 1
                """).write("huts.csv", "code;rate\nA;12,50\nB;3\n");
        star.loaded(DAY, "dim_hut");
        assertThat(star.rows("select code, rate, typeof(rate) from dim_hut where hut_key > 0 order by 1"))
                .containsExactly("A|12.50|DECIMAL(18,2)", "B|3.00|DECIMAL(18,2)");
    }

    @Test
    void readsFilesWithoutAHeader() {
        input(
                "huts.csv",
                ", csv: {header: false}, columns: {code: varchar, name: varchar, beds: integer, rate: \"decimal(10,2)\","
                        + " since: date, seen: timestamp, open: boolean}");
        star.write("huts.csv", CSV.substring(CSV.indexOf('\n') + 1) + "H3,short\n");
        loadsWhatIsExpected();
        assertThat(star.setAside()).containsExactly("bad line|null|2 fields, the header has 7|3|H3,short");
    }

    @ParameterizedTest
    @CsvSource({"huts.csv.gz", "huts.jsonl.gz", "huts.csv.zst", "huts.jsonl.zst"})
    void readsCompressedFiles(String name) {
        input("huts*", "");
        boolean lines = name.contains("jsonl");
        if (name.endsWith(".gz")) {
            star.write(name, gzip(lines ? LINES : CSV));
        } else {
            star.write("plain", lines ? LINES.replace("\n\n", "\n") : CSV);
            star.warehouse()
                    .execute("copy (select line from read_csv(" + path("plain")
                            + ", header = false, auto_detect = false, delim = chr(1), quote = '', escape = '', columns = {'line': 'VARCHAR'}))"
                            + " to " + path(name)
                            + " (format csv, header false, quote '', escape '', delimiter E'\\x01', compression zstd)");
        }
        loadsWhatIsExpected();
    }

    /** An expression never means a column of the program's own, whatever the source calls its columns. */
    @Test
    void anExpressionDoesNotTakeTheProgramsOwnColumns() {
        try (TestStar star = new TestStar(folder)) {
            star.write("huts.csv", "code,zk_row,zk_file\nA,a7,x\n");
            String hut =
                    "dimension: hut\nfrom: {files: huts.csv}\nkey: code\nattributes: {place: {type: 1, take: \"%s\"}}\n";
            star.write("dimensions/hut.yaml", hut.formatted("'a' || zk_row"));
            assertThat(star.failure("2026-03-01"))
                    .contains("\"zk_row\" would be a column of this program's own", "is called \"staged_zk_row\"");
            star.write("dimensions/hut.yaml", hut.formatted("'a' || staged_zk_row"));
            star.loaded("2026-03-01", "dim_hut");
            assertThat(star.rows("select place from dim_hut where hut_key > 0")).containsExactly("aa7");
        }
    }
}
