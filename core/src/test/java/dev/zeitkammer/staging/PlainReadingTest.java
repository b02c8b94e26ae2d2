package dev.zeitkammer.staging;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowable;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.definition.Input;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.TestStar;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.zip.GZIPOutputStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * Large files of plain values are read by the engine alone; whatever else stands in one is read as strictly as ever. What must
 * come out is what comes out of the same file packed, which is never read plainly.
 */
@Tag("slow")
class PlainReadingTest {

    private static final int RECORDS = 75_000;
    private static final String HEADER = "no,hut,name,night,at,beds,paid\n";
    private static final String ALL =
            IntStream.range(0, RECORDS).mapToObj(PlainReadingTest::record).collect(Collectors.joining());

    @TempDir
    Path folder;

    private TestStar star;

    @BeforeEach
    void inputs() {
        star = new TestStar(folder);
        for (String name : List.of("plain", "packed")) {
            star.write("inputs/" + name + ".yaml", """
                    input: %s
                    files: "%s*.csv%s"
                    columns: {no: bigint, hut: smallint, name: varchar, night: date, at: timestamp, beds: integer, paid: "decimal(10,2)"}
                    """.formatted(name, name, name.equals("plain") ? "" : ".gz"));
        }
    }

    @AfterEach
    void close() {
        star.close();
    }

    private static String record(int number) {
        int day = 1 + number % 28;
        return "%d,%d,%s,2026-02-%02d,2026-02-%02d 10:0%d:00%s,%s,%d.%d\n"
                .formatted(
                        number,
                        number % 700 - 300,
                        number % 3 == 0 ? "\"Hut, \"\"the\"\" " + number + "\"" : "Hütte " + number,
                        day,
                        day,
                        number % 10,
                        number % 5 == 0 ? ".25" : "",
                        number % 11 == 0 ? "" : number % 40,
                        number,
                        number % 100);
    }

    private static StringBuilder records() {
        return new StringBuilder(HEADER).append(ALL);
    }

    private void deliver(String text) {
        star.write("plain.csv", text);
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (GZIPOutputStream packing = new GZIPOutputStream(bytes)) {
            packing.write(text.getBytes(StandardCharsets.UTF_8));
        } catch (IOException impossible) {
            throw new AssertionError(impossible);
        }
        star.write("packed.csv.gz", bytes.toByteArray());
    }

    /** How rows came out: all of them in one number, a few in words. */
    private record Read(boolean plainly, List<String> rows, List<String> unusable) {}

    private Read read(String name) {
        Input input = star.project().inputs().stream()
                .filter(each -> each.name().text().equals(name))
                .findFirst()
                .orElseThrow();
        Staging staging = new Staging(star.warehouse(), folder);
        Delivery delivery = staging.delivery(input, LoadDate.parse("2026-03-01"), Earlier.NOTHING)
                .orElseThrow();
        Wanted wanted = new Wanted(delivery);
        wanted.all().forEach(column -> wanted.column(column, Optional.empty()));
        StagedRows staged = staging.stage(delivery, wanted, Earlier.NOTHING, "zk_staged");
        List<String> rows = star.warehouse().stager().query("""
                select cast(count(*) as varchar) || ' ' || cast(bit_xor(hash(r)) as varchar) from zk_staged as r
                union all
                select cast(r as varchar) from zk_staged as r where zk_bad_column is not null or zk_row in (0, 74999)
                order by 1""", row -> row.text(1));
        return new Read(
                String.join("\n", staged.statements()).contains("'no': 'bigint'"),
                rows,
                staged.unusable().stream()
                        .map(line -> line.reason() + " " + line.line() + " " + line.text())
                        .toList());
    }

    private void comesOutTheSame(boolean plainly) {
        Read plain = read("plain");
        Read packed = read("packed");
        assertThat(packed.plainly()).isFalse();
        assertThat(plain.rows()).isEqualTo(packed.rows());
        assertThat(plain.unusable()).isEqualTo(packed.unusable());
        assertThat(plain.plainly()).isEqualTo(plainly);
    }

    @Test
    void plainValuesAreReadByTheEngineAlone() {
        deliver(records().toString());
        comesOutTheSame(true);
    }

    @Test
    void endsOfLinesAndAMissingOneDoNotMatter() {
        String text = records().toString();
        deliver(text.substring(0, text.length() - 1).replace("\n", "\r\n"));
        comesOutTheSame(true);
    }

    @Test
    void severalFilesWithColumnsInAnotherOrder() {
        deliver(records().toString());
        star.write(
                "plain2.csv", "paid,no,hut,name,night,at,beds\n12.5,-7,3,x,2026-01-01,2026-01-01T00:00:00.000001,4\n");
        Read read = read("plain");
        assertThat(read.plainly()).isTrue();
        assertThat(star.warehouse()
                        .stager()
                        .query(
                                "select no || ' ' || paid || ' ' || \"at\" || ' ' || zk_file from zk_staged where zk_row = 75000",
                                row -> row.text(1)))
                .containsExactly("-7 12.50 2026-01-01 00:00:00.000001 1");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "12.7,1,x,2026-02-01,2026-02-01 10:00:00,3,1.00",
                "1_000,1,x,2026-02-01,2026-02-01 10:00:00,3,1.00",
                "0x1F,1,x,2026-02-01,2026-02-01 10:00:00,3,1.00",
                "1e3,1,x,2026-02-01,2026-02-01 10:00:00,3,1.00",
                "5,40000,x,2026-02-01,2026-02-01 10:00:00,3,1.00",
                "5, 4,x,2026-02-01,2026-02-01 10:00:00,3,1.00",
                "5,4,x,2026-02-30,2026-02-01 10:00:00,3,1.00",
                "5,4,x,2026-02-01 10:00:00,2026-02-01 10:00:00,3,1.00",
                "5,4,x,2026-2-1,2026-02-01 10:00:00,3,1.00",
                "5,4,x,2026-02-01,2026-02-01,3,1.00",
                "5,4,x,2026-02-01,2026-02-01 10:00:00.1234567,3,1.00",
                "5,4,x,2026-02-01,2026-02-01 10:00:00+02,3,1.00",
                "5,4,x,2026-02-01,2026-02-01 10:00:00,--3,1.00",
                "5,4,x,2026-02-01,2026-02-01 10:00:00,3,1.005",
                "5,4,x,2026-02-01,2026-02-01 10:00:00,3,99999999999",
                "5,4,x,2026-02-01,2026-02-01 10:00:00,3,\"1.00\"",
                "5,4,x,2026-02-01,2026-02-01 10:00:00,3",
                "5,4,x,2026-02-01,2026-02-01 10:00:00,3,1.00,7",
                "5,4,\"two\nlines\",2026-02-01,2026-02-01 10:00:00,3,1.00",
                "5,4,a \"quoted\" word,2026-02-01,2026-02-01 10:00:00,3,1.00",
                "",
                "5,4,x,infinity,2026-02-01 10:00:00,3,1.00"
            })
    void whatIsNotPlainIsReadAsStrictlyAsEver(String odd) {
        StringBuilder text = records();
        int middle = text.indexOf("\n", text.length() * 2 / 3) + 1;
        deliver(text.insert(middle, odd + "\n").toString());
        comesOutTheSame(false);
    }

    /** What the engine refuses would end a transaction: files of feeds, and all files of a rehearsal, are mended before. */
    @ParameterizedTest
    @ValueSource(ints = {3, 75_000})
    void linesThatEndInSeveralWaysInsideATransaction(int records) {
        StringBuilder stays = new StringBuilder("no,beds\n");
        StringBuilder paid = new StringBuilder("no,paid\n");
        for (int number = 0; number < records; number++) {
            stays.append(number).append(',').append(number % 5).append(number % 2 == 0 ? "\r\n" : "\n");
            paid.append(number).append(',').append(number + 5_000_000_000L).append(number == 1 ? "\r" : "\n");
        }
        star.write("stays.csv", stays.toString())
                .write("paid.csv", paid.toString())
                .write("facts/stay.yaml", """
                fact: stay
                from: {files: stays.csv, columns: {no: bigint}}
                grain: no
                measures: {beds: integer, paid: bigint}
                feeds:
                  - {from: {files: paid.csv, columns: {no: bigint, paid: bigint}}, match: no, updates: [paid]}
                """);
        Loader loader = new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC());
        LoadEntry rehearsed =
                loader.rehearse(LoadDate.parse("2026-03-01"), List.of()).load();
        assertThat(rehearsed.status()).isEqualTo(LoadStatus.DONE);
        star.loaded("2026-03-01", "fact_stay");
        assertThat(star.rows("select count(*), count(paid), min(paid), count(distinct beds) from fact_stay"))
                .containsExactly(records + "|" + records + "|5000000000|" + Math.min(records, 5));
    }

    /** Any character in any place of one record: the row is the same, or as bad, as where it is looked at closely. */
    @Test
    void anyCharacterAnywhere() {
        Random random = new Random(20261126);
        StringBuilder text = records();
        String strange = "0123456789-+.,:;eExX_T \"\n\r\tä";
        for (int change = 0; change < 8; change++) {
            int at = text.length() - 1 - random.nextInt(text.length() / 3);
            char character = strange.charAt(random.nextInt(strange.length()));
            char before = text.charAt(at);
            text.setCharAt(at, character);
            deliver(text.toString());
            Throwable packed = catchThrowable(() -> read("packed"));
            if (packed != null) {
                assertThat(catchThrowable(() -> read("plain")))
                        .hasMessage(packed.getMessage().replace("packed.csv.gz", "plain.csv"));
            } else {
                assertThat(read("plain").rows())
                        .as(character + " at " + at)
                        .isEqualTo(read("packed").rows());
            }
            text.setCharAt(at, before);
        }
    }
}
