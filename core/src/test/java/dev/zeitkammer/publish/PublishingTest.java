package dev.zeitkammer.publish;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zeitkammer.books.ExtraRun;
import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.definition.DefinitionException;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.Undo;
import dev.zeitkammer.publish.Publishing.Published;
import dev.zeitkammer.seal.AlteredValue;
import dev.zeitkammer.verify.Verifier;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.MessageDigest;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.DisabledIf;
import org.junit.jupiter.api.condition.DisabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;

/** Tables as open files: what is in them, when they are written, and that readers never see half of them. */
@Tag("slow")
class PublishingTest {

    @TempDir
    Path folder;

    private TestStar star(String publish) {
        return define(new TestStar(folder), publish);
    }

    private static TestStar define(TestStar star, String publish) {
        return star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {since: date}}
                key: code
                attributes: {area: type 1, beds: {type: 2, as: integer}, label: type 1}
                history: {effective: since}
                publish: %s
                """.formatted(publish));
    }

    private static void deliver(TestStar star, String day, String... rows) {
        star.write("huts-" + day + ".csv", "code,area,beds,label,since\n" + String.join("\n", rows) + "\n");
    }

    private JsonNode manifest() throws IOException {
        return new ObjectMapper()
                .readTree(folder.resolve("published/dim_hut/manifest.json").toFile());
    }

    private static Published publish(TestStar star) {
        return new Publishing(star.project(), star.warehouse(), Clock.systemUTC())
                .publish(star.project().definition("hut"));
    }

    @Test
    void filesHoldTheRowsAndTheManifestSaysWhich() throws Exception {
        try (TestStar star = star("{partition: [area]}")) {
            deliver(
                    star,
                    "2026-03-01",
                    "ADL,north,30,\"Ad, \"\"ler\",2026-01-01",
                    "BER,south,12,Ber,2026-01-01",
                    "ADL,north,31,Adler,2026-02-01");
            LoadEntry load = star.load("2026-03-01");
            assertThat(load.extra().get(0).output()).contains("rows");
            assertThat(load.extra())
                    .extracting(ExtraRun::name, ExtraRun::status)
                    .containsExactly(tuple("publish dim_hut", "done"));
            JsonNode manifest = manifest();
            assertThat(manifest.get("load").asLong()).isEqualTo(1);
            assertThat(manifest.get("rows").asLong()).isEqualTo(5);
            List<String> files = new ArrayList<>();
            for (JsonNode file : manifest.get("files")) {
                Path path = folder.resolve("published/dim_hut")
                        .resolve(file.get("file").asText());
                byte[] bytes = Files.readAllBytes(path);
                assertThat(bytes).hasSize(file.get("bytes").asInt());
                assertThat(HexFormat.of()
                                .formatHex(MessageDigest.getInstance("SHA-256").digest(bytes)))
                        .isEqualTo(file.get("sha256").asText());
                files.add(file.get("file").asText() + " " + file.get("rows").asLong());
            }
            assertThat(files)
                    .hasSize(4)
                    .contains("load-1/area=north/data_0.parquet 2", "load-1/area=south/data_0.parquet 1");
            assertThat(star.warehouse()
                            .stager()
                            .query(
                                    "select code, beds, label from read_parquet('"
                                            + folder.resolve("published/dim_hut/current")
                                            + "/*/*.parquet', hive_partitioning = false) where hut_key > 0 order by code, valid_from",
                                    row -> row.text(1) + "|" + row.text(2) + "|" + row.text(3)))
                    .containsExactly("ADL|30|Adler", "ADL|31|Adler", "BER|12|Ber");
        }
    }

    @Test
    void csvOfCurrentVersionsIsWrittenWhereSomethingChanged() throws Exception {
        try (TestStar star = star("{to: \"out/{table}\", as: csv, versions: current, keep-for: 0 minutes}")) {
            deliver(star, "2026-03-01", "ADL,north,30,\"Ad, \"\"ler\",2026-01-01", "ADL,north,31,,2026-02-01");
            star.load("2026-03-01");
            Path out = folder.resolve("out/dim_hut");
            List<String> lines = Files.readAllLines(out.resolve("current/part-0.csv"), StandardCharsets.UTF_8);
            assertThat(lines.get(0)).startsWith("hut_key,code,area,beds,label,valid_from");
            assertThat(lines).hasSize(4).anyMatch(line -> line.contains("ADL,north,31,,2026-02-01"));
            assertThat(publish(star).isWritten()).isFalse();
            assertThat(star.load("2026-03-01").extra())
                    .extracting(ExtraRun::status)
                    .containsExactly("unchanged");
            deliver(star, "2026-03-03", "BER,south,12,Ber,2026-01-01");
            assertThat(star.load("2026-03-03").extra())
                    .extracting(ExtraRun::status)
                    .containsExactly("done");
            assertThat(out.resolve("current").toRealPath().getFileName()).hasToString("load-3");
            assertThat(out.resolve("load-1")).as("its time is over").doesNotExist();
            new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty());
            Published back = publish(star);
            assertThat(back.isWritten()).as("what was undone is not published").isTrue();
            assertThat(back.load()).isEqualTo(1);
            assertThat(Files.readAllLines(out.resolve("current/part-0.csv"))).hasSize(4);
            define(star, "{to: \"out/{table}\", as: csv, versions: all}");
            assertThat(publish(star))
                    .matches(Published::isWritten)
                    .extracting(Published::rows)
                    .isEqualTo(5L - 1);
        }
    }

    @Test
    void textsThatBeginLikeFormulasAreQuotedForSpreadsheets() throws Exception {
        try (TestStar star = star("{as: csv, formulas: quote}")) {
            deliver(
                    star,
                    "2026-03-01",
                    "ADL,=1+1,-3,@x,2026-01-01",
                    "BER,a=b,4,-,2026-01-01",
                    "CIR,,5,\"\t=x\",2026-01-01");
            star.load("2026-03-01");
            Path file = folder.resolve("published/dim_hut/current/part-0.csv");
            assertThat(Files.readString(file, StandardCharsets.UTF_8))
                    .contains(",ADL,'=1+1,-3,'@x,", ",BER,a=b,4,'-,", ",CIR,,5,'\t=x,");
            assertThat(publish(star).isWritten()).isFalse();
            define(star, "{as: csv}");
            assertThat(publish(star).isWritten()).isTrue();
            assertThat(Files.readString(file, StandardCharsets.UTF_8)).contains(",ADL,=1+1,-3,@x,");
        }
    }

    @Test
    void whatSomebodyChangedByHandIsNamedByTheCopy() {
        try (TestStar star = star("{partition: [area]}")) {
            deliver(
                    star,
                    "2026-03-01",
                    "ADL,north,30,Ad,2026-01-01",
                    "BER,south,12,,2026-01-01",
                    "CIR,south,5,c,2026-01-01");
            star.load("2026-03-01");
            assertThat(copy(star).orElseThrow().changed(9)).isEmpty();
            String table = star.warehouse().table("dim_hut");
            star.warehouse().execute("update " + table + " set beds = 31 where code = 'ADL'");
            star.warehouse().execute("update " + table + " set label = 'new' where code = 'BER'");
            star.warehouse().execute("delete from " + table + " where code = 'CIR'");
            assertThat(copy(star).orElseThrow().changed(9))
                    .containsExactlyInAnyOrder(
                            new AlteredValue("1", "beds", "30", "31"),
                            new AlteredValue("2", "label", null, "new"),
                            new AlteredValue("3", "row", "there", null));
            deliver(star, "2026-03-02", "DOH,south,5,d,2026-01-01");
            define(star, "{as: csv}");
            star.load("2026-03-02");
            assertThat(copy(star)).as("of text files nobody knows the types").isEmpty();
        }
    }

    @Test
    void aPublishedFileThatWasChangedIsFound() throws Exception {
        try (TestStar star = star("{partition: [area]}")) {
            deliver(star, "2026-03-01", "ADL,north,30,Ad,2026-01-01", "BER,south,12,,2026-01-01");
            star.load("2026-03-01");
            assertThat(Publishing.damaged(star.project(), star.project().definition("hut")))
                    .contains(List.of());
            Path file = folder.resolve("published/dim_hut")
                    .resolve(manifest().get("files").get(0).get("file").asText());
            Files.write(file, new byte[] {1, 2, 3});
            assertThat(new Verifier(star.warehouse(), star.project())
                            .verify(star.project().definitions()))
                    .filteredOn(verdict -> !verdict.holds())
                    .singleElement()
                    .satisfies(
                            verdict -> assertThat(verdict.told())
                                    .startsWith(
                                            "\"published files lie there as they were written\" fails for 1 file, such as file load-1/"));
        }
    }

    private static Optional<PublishedCopy> copy(TestStar star) {
        return PublishedCopy.of(star.project(), star.project().definition("hut"), star.warehouse());
    }

    /** Readers who join published facts with published huts find each fact's hut. */
    @Test
    void membersThatFactsMakeArePublishedToo() throws Exception {
        try (TestStar star = star("{as: csv}")) {
            star.write("facts/stay.yaml", """
                    fact: stay
                    from: {files: "stays-{date}.csv"}
                    grain: no
                    lookups: {hut: {match: code, unmatched: placeholder}}
                    """);
            deliver(star, "2026-03-01", "ADL,north,30,A,2026-01-01");
            star.load("2026-03-01");
            star.write("stays-2026-03-02.csv", "no,code\n1,ADL\n").load("2026-03-02");
            assertThat(manifest().get("load").asLong()).as("nobody was made").isEqualTo(1);
            star.write("stays-2026-03-03.csv", "no,code\n2,BER\n").load("2026-03-03");
            assertThat(manifest().get("load").asLong()).isEqualTo(3);
            assertThat(manifest().get("rows").asLong()).isEqualTo(4);
            deliver(star, "2026-03-04", "ADL,north,30,A,2026-01-01");
            star.write("stays-2026-03-04.csv", "no,code\n3,CIM\n").load("2026-03-04");
            assertThat(manifest().get("rows").asLong())
                    .as("beside a delivery that changes nothing")
                    .isEqualTo(5);
            new Undo(star.project(), star.warehouse(), Clock.systemUTC()).undo(Optional.empty());
            star.load("2026-03-04", "dim_hut");
            assertThat(manifest().get("rows").asLong())
                    .as("after they were taken back")
                    .isEqualTo(4);
        }
    }

    @Test
    void whatWasCutOffIsRemovedAndNeverSeen() throws Exception {
        try (TestStar star = star("{}")) {
            deliver(star, "2026-03-01", "ADL,north,30,A,2026-01-01");
            star.load("2026-03-01");
            Path half = folder.resolve("published/dim_hut/.writing-2");
            Path unnamed = folder.resolve("published/dim_hut/load-2");
            for (Path left : List.of(half, unnamed)) {
                Files.createDirectories(left);
                Files.writeString(left.resolve("part-0.parquet"), "half");
            }
            Files.writeString(
                    folder.resolve("published/dim_hut/.published.json"),
                    "{\"writing\": [\".writing-2\", \"load-2\", \"load-1\"], \"replaced\": []}");
            assertThat(publish(star).isWritten()).isFalse();
            deliver(star, "2026-03-02", "BER,north,30,A,2026-01-01");
            star.load("2026-03-02");
            assertThat(half).doesNotExist();
            assertThat(manifest().get("folder").asText()).isEqualTo("load-2");
            assertThat(manifest().get("rows").asLong()).isEqualTo(4);
            assertThat(folder.resolve("published/dim_hut/load-1"))
                    .as("readers may be at it")
                    .isDirectory();
        }
    }

    /** A folder in which others keep files: none of them is removed, and none is opened to anybody. */
    @Test
    @DisabledOnOs(OS.WINDOWS)
    void whatOthersKeepThereStaysAsItIs() throws Exception {
        Files.setPosixFilePermissions(folder, PosixFilePermissions.fromString("rwxr-xr-x"));
        Path there = Files.createDirectories(folder.resolve("shared"));
        Path secret = Files.writeString(there.resolve("key.pem"), "secret");
        Path load = Files.createDirectories(there.resolve("load-1"));
        Path writing = Files.createDirectories(there.resolve(".writing-1"));
        Path theirs = Files.writeString(load.resolve("theirs.csv"), "a");
        Files.writeString(writing.resolve("theirs.csv"), "a");
        for (Path each : List.of(secret, theirs)) {
            Files.setPosixFilePermissions(each, PosixFilePermissions.fromString("rw-------"));
        }
        Files.setPosixFilePermissions(there, PosixFilePermissions.fromString("rwx------"));
        Files.setLastModifiedTime(load, FileTime.from(Instant.EPOCH));
        try (TestStar star = star("{to: shared, as: csv, keep-for: 0 minutes}")) {
            for (int day = 1; day <= 3; day++) {
                deliver(star, "2026-03-0" + day, "H" + day + ",north,30,A,2026-01-01");
                star.load("2026-03-0" + day);
            }
            Path stray = Files.writeString(there.resolve("load-3/note.txt"), "mine");
            deliver(star, "2026-03-04", "H4,north,30,A,2026-01-01");
            star.load("2026-03-04");
            assertThat(stray).exists();
        }
        assertThat(theirs).exists();
        assertThat(writing.resolve("theirs.csv")).exists();
        for (Path each : List.of(secret, theirs)) {
            assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(each)))
                    .isEqualTo("rw-------");
        }
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(there)))
                .isEqualTo("rwx------");
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(
                        there.resolve("current/part-0.csv").toRealPath())))
                .endsWith("r--");
        assertThat(there.resolve("load-2")).as("its time is over").doesNotExist();
    }

    /** Notes that name folders elsewhere, as others may write them, remove nothing there. */
    @Test
    void notesLeadNowhereElse() throws Exception {
        Path elsewhere = Files.createDirectories(folder.resolve("elsewhere"));
        Files.writeString(elsewhere.resolve("theirs.csv"), "a");
        try (TestStar star = star("{keep-for: 0 minutes}")) {
            deliver(star, "2026-03-01", "ADL,north,30,A,2026-01-01");
            star.load("2026-03-01");
            Files.writeString(
                    folder.resolve("published/dim_hut/.published.json"),
                    "{\"writing\": [\"../../elsewhere\", \"" + elsewhere
                            + "\", \"..\", \".\", \"\"], \"replaced\": [{\"folder\": \"../../elsewhere\","
                            + " \"since\": \"2020-01-01T00:00:00Z\", \"files\": [\"../../elsewhere/theirs.csv\"]}]}");
            deliver(star, "2026-03-02", "BER,north,30,A,2026-01-01");
            assertThat(star.load("2026-03-02").status()).isEqualTo(LoadStatus.DONE);
        }
        assertThat(elsewhere.resolve("theirs.csv")).exists();
        assertThat(manifest().get("rows").asLong()).isEqualTo(4);
    }

    /** The same number of a load in another warehouse is another load; and files that are not what was written are written again. */
    @Test
    void whatIsPublishedIsKnownByItsWarehouseAndItsFiles() throws Exception {
        try (TestStar star = star("{as: csv}")) {
            deliver(star, "2026-03-01", "ADL,north,30,A,2026-01-01");
            star.load("2026-03-01");
        }
        Path current = folder.resolve("published/dim_hut/current/part-0.csv");
        try (TestStar anew = star("{as: csv}")) {
            deliver(anew, "2026-03-01", "BER,north,30,A,2026-01-01");
            anew.load("2026-03-01");
            assertThat(Files.readString(current)).contains("BER").doesNotContain("ADL");
            assertThat(publish(anew).isWritten()).isFalse();
            Files.delete(current.toRealPath());
            assertThat(publish(anew).isWritten()).as("a file was removed").isTrue();
            Files.writeString(current.toRealPath(), Files.readString(current).replace("BER", "CAN"));
            assertThat(publish(anew).isWritten()).as("a file was changed").isTrue();
            assertThat(Files.readString(current)).contains("BER");
            Files.delete(folder.resolve("published/dim_hut/current"));
            assertThat(publish(anew).isWritten()).as("the link was removed").isTrue();
            assertThat(publish(anew).isWritten()).isFalse();
        }
    }

    @Test
    @DisabledIf("dev.zeitkammer.load.TestWarehouses#onServer") // the same engine reads them there, ten seconds long
    void valuesMayBeLong() throws Exception {
        try (TestStar star = star("{as: csv}")) {
            deliver(star, "2026-03-01", "ADL,north,30," + "x".repeat(2_200_000) + ",2026-01-01");
            assertThat(star.load("2026-03-01").status()).isEqualTo(LoadStatus.DONE);
            assertThat(manifest().get("rows").asLong()).isEqualTo(3);
        }
    }

    @Test
    void twoTablesDoNotShareAFolder() {
        try (TestStar star = star("{to: out}")) {
            star.write("facts/stay.yaml", "fact: stay\nfrom: {files: s.csv}\ngrain: no\npublish: {to: \"x/../out\"}\n");
            assertThatThrownBy(star::project)
                    .isInstanceOf(DefinitionException.class)
                    .hasMessageContaining("\"stay\" would be published to the folder of \"hut\"");
        }
    }

    @Test
    void afterAFailureTheOldFilesStandAndTheLoadIsNotDone() throws Exception {
        try (TestStar star = star("{partition: [nowhere]}")) {
            deliver(star, "2026-03-01", "ADL,north,30,A,2026-01-01");
            LoadEntry load = star.load("2026-03-01");
            assertThat(load.status()).isEqualTo(LoadStatus.FAILED);
            assertThat(load.tables().get(0).status()).isEqualTo(LoadStatus.DONE);
            assertThat(load.extra().get(0).output())
                    .contains("dimensions/hut.yaml:6:23: \"partition\" names nowhere, which is no column of dim_hut");
        }
    }

    /** A reader that goes by the manifest, and one that goes by the link, while files are replaced again and again. */
    @Test
    void readersSeeOldFilesWholeOrNewOnes() throws Exception {
        try (TestStar star = star("{as: csv}")) {
            deliver(star, "2026-03-01", "ADL,north,1,A,2026-01-01");
            star.load("2026-03-01");
            ExecutorService reader = Executors.newSingleThreadExecutor();
            AtomicBoolean isOver = new AtomicBoolean();
            Future<Integer> polls = reader.submit(() -> {
                int read = 0;
                while (!isOver.get() || read < 500) {
                    JsonNode manifest = manifest();
                    Path file = folder.resolve("published/dim_hut")
                            .resolve(manifest.get("files").get(0).get("file").asText());
                    assertThat(Files.readAllLines(file))
                            .hasSize(manifest.get("rows").asInt() + 1);
                    List<String> current = Files.readAllLines(folder.resolve("published/dim_hut/current/part-0.csv"));
                    assertThat(current.get(current.size() - 1)).contains("source");
                    read++;
                }
                return read;
            });
            for (int day = 2; day <= 9; day++) {
                deliver(star, "2026-03-0" + day, "H" + day + ",north," + day + ",A,2026-01-01");
                assertThat(star.load("2026-03-0" + day).status()).isEqualTo(LoadStatus.DONE);
            }
            isOver.set(true);
            assertThat(polls.get()).isGreaterThanOrEqualTo(500);
            reader.shutdown();
            assertThat(manifest().get("rows").asLong()).isEqualTo(11);
        }
    }

    @Test
    void warehousesOfOneProjectPublishApart() {
        TestStar star = star("{to: \"out/{warehouse}/{table}\"}");
        deliver(star, "2026-03-01", "A,north,3,a,2026-03-01");
        star.load("2026-03-01");
        assertThat(folder.resolve("out")
                        .resolve(star.project().settings().use())
                        .resolve("dim_hut/manifest.json"))
                .exists();
        assertThat(star.project()
                        .using("test")
                        .publishedTo(star.project().definition("hut").publish().orElseThrow())
                        .text())
                .isEqualTo("out/test/dim_hut");
    }
}
