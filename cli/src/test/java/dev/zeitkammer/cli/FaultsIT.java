package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeFalse;

import dev.zeitkammer.cli.Program.Run;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.duckdb.DuckDBDriver;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Bad input, files and warehouses that cannot be used, and a load that is cut: what the program says, and what it leaves. */
class FaultsIT extends SmallProject {

    /** A fault: the file it is put into, its text, and what the message must say. */
    record Fault(String file, String text, int status, List<String> said) {}

    static Stream<Fault> faults() {
        String delivery = "2026-03-02/huts.csv";
        return Stream.of(
                new Fault(
                        "dimensions/hut.yaml",
                        "dimension: hut\nfrom: huts\nkey: hut_code\natributes: {}\n",
                        2,
                        List.of("dimensions/hut.yaml:4:1", "\"atributes\"", "did you mean \"attributes\"?")),
                new Fault(
                        "dimensions/hut.yaml",
                        "dimension: hut\nfrom: huts\nkey: hut_code\nattributes: {hut_nam: type 1}\n",
                        1,
                        List.of("dimensions/hut.yaml:4:14", "\"hut_nam\"", "not staged", "did you mean \"hut_name\"?")),
                new Fault(
                        "dimensions/hut.yaml",
                        "dimension: hut\nfrom: huts\nkey: hut_code\nattributes: {x: {type: 1, take: \"beds +\"}}\n",
                        1,
                        List.of("dimensions/hut.yaml:4:33", "\"take\" of \"x\"")),
                new Fault(
                        "inputs/huts.yaml",
                        "input: huts\nfiles: \"{date}/nothing.csv\"\nrequired: true\n",
                        1,
                        List.of("no file matches 2026-03-02/nothing.csv")),
                new Fault(delivery, "a,b\n1,2\n", 1, List.of("\"beds\" is listed and not staged", "valid are: a, b")),
                new Fault(delivery, "", 1, List.of("2026-03-02/huts.csv", "the file is empty")),
                new Fault(delivery, "\u0000\u0001\u0002\u0003", 1, List.of("2026-03-02/huts.csv:1", "not text")),
                new Fault(
                        delivery,
                        HUTS + "BIR,\"Birkensee,60,2026-03-01\nENZ,Enzian,1,2026-03-01\n",
                        1,
                        List.of("2026-03-02/huts.csv:3", "never closed")));
    }

    @ParameterizedTest
    @MethodSource("faults")
    void badInputIsRefusedWithAClearMessageAndNothingChanged(Fault fault) {
        assertThat(here.run("load", "--date", "2026-03-01").status()).isZero();
        String before = here.wholeTable("hut");
        String definition = here.read("dimensions/hut.yaml");
        here.write("2026-03-02/huts.csv", HUTS);
        here.write(fault.file(), fault.text());
        Run load = here.run("load", "--date", "2026-03-02");
        assertThat(load.status()).isEqualTo(fault.status());
        assertThat(load.out() + load.err()).contains(fault.said()).doesNotContain("\tat ");
        here.write("dimensions/hut.yaml", definition);
        assertThat(here.wholeTable("hut")).isEqualTo(before);
    }

    @Test
    void aTypeThatDoesNotFitSetsTheRowAsideAndLoadsTheRest() {
        here.write("2026-03-01/huts.csv", HUTS + "BIR,Birkensee,sixty,2026-03-01\n");
        Run load = here.run("load", "--date", "2026-03-01");
        assertThat(load.status()).isZero();
        assertThat(load.out()).contains("1 row was set aside");
        assertThat(here.run("set-aside", "1").out())
                .contains("bad value in beds: \"sixty\"", "2026-03-01/huts.csv:3: BIR,Birkensee,sixty,2026-03-01");
    }

    @Test
    void aFileWithoutPermissionIsNamed() throws IOException {
        Path file = folder.resolve("small/2026-03-01/huts.csv");
        Files.setPosixFilePermissions(file, java.util.Set.of());
        assumeFalse(Files.isReadable(file), "the superuser may read everything");
        Run load = here.run("load", "--date", "2026-03-01");
        assertThat(load.status()).isEqualTo(1);
        assertThat(load.out()).contains("2026-03-01/huts.csv: no permission");
    }

    @Test
    void aWarehouseFileOfAnotherProgramIsLeftAsItIs() {
        here.write("warehouse.duckdb", "the diary of a warden\n".repeat(100));
        for (String command : List.of("load", "journal", "check")) {
            Run run = here.run(command);
            assertThat(run.status()).isEqualTo(1);
            assertThat(run.err()).contains("belongs to another program", "warehouse.duckdb");
        }
        assertThat(here.read("warehouse.duckdb")).startsWith("the diary of a warden");
    }

    @Test
    void aWarehouseThatIsOpenElsewhereIsNotWaitedForInSilence() throws SQLException {
        assertThat(here.run("load", "--date", "2026-03-01").status()).isZero();
        String url = "jdbc:duckdb:" + folder.resolve("small/warehouse.duckdb");
        try (Connection elsewhere = new DuckDBDriver().connect(url, new Properties())) {
            assertThat(elsewhere.isClosed()).isFalse();
            Run load = here.launched("load", "--date", "2026-03-01");
            assertThat(load.status()).isEqualTo(1);
            assertThat(load.err())
                    .contains("open in another program (process "
                            + ProcessHandle.current().pid() + ")");
        }
    }

    @Test
    void aTableOfSomebodyElseIsNotTouched() throws SQLException {
        String url = "jdbc:duckdb:" + folder.resolve("small/warehouse.duckdb");
        try (Connection elsewhere = new DuckDBDriver().connect(url, new Properties())) {
            elsewhere.createStatement().execute("create table dim_hut (hut_code varchar, remark varchar)");
        }
        Run load = here.run("load", "--date", "2026-03-01");
        assertThat(load.status()).isEqualTo(1);
        assertThat(load.out()).contains("dim_hut exists", "hut_key", "table:");
    }

    @Test
    void anOlderLoadDateIsRefusedWhereItOrdersTheHistory() {
        here.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}/huts.csv"}
                key: hut_code
                attributes: {hut_name: type 2}
                """);
        here.write("2026-03-02/huts.csv", HUTS);
        assertThat(here.run("load", "--date", "2026-03-02").status()).isZero();
        Run load = here.run("load", "--date", "2026-03-01", "--format", "json");
        assertThat(load.status()).isEqualTo(3);
        assertThat(load.json().at("/tables/0/status").asText()).isEqualTo("stopped");
        assertThat(load.json().at("/tables/0/error").asText()).contains("2026-03-02", "2026-03-01 is older");
    }

    /** Cut off at any moment, a load leaves nothing half done, and the next one ends where an undisturbed one would have. */
    @Test
    void aLoadThatIsKilledIsMadeGoodByTheNext() throws InterruptedException {
        bigDelivery("2026-03-01", 0);
        bigDelivery("2026-03-02", 7);
        here.write("facts/night.yaml", """
                fact: night
                from: {files: "{date}/nights.csv", columns: {night: date}}
                grain: night_no
                lookups: {hut: {as-of: night}}
                """);
        Program calm = new Program(folder.resolve("calm"));
        copyProject(calm);
        List<String> days = List.of("2026-03-01", "2026-03-02");
        Map<String, Long> undisturbed = new LinkedHashMap<>();
        for (String day : days) {
            long began = System.nanoTime();
            assertThat(calm.launched("load", "--date", day).status()).isZero();
            undisturbed.put(day, (System.nanoTime() - began) / 1_000_000);
        }
        int cut = 0;
        for (String day : days) {
            int parts = Program.isThorough() ? 24 : 8;
            for (int part = parts / 4; part < parts; part++) {
                Process load = here.start("load", "--date", day);
                if (!load.waitFor(undisturbed.get(day) * part / parts, TimeUnit.MILLISECONDS)) {
                    load.destroyForcibly().waitFor();
                    cut++;
                }
            }
            assertThat(here.run("load", "--date", day).status()).isZero();
        }
        assertThat(cut).as("loads that were cut off").isGreaterThan(3);
        assertThat(sortedByKey(here.table("hut"))).isEqualTo(sortedByKey(calm.table("hut")));
        assertThat(here.table("night")).isEqualTo(calm.table("night"));
    }

    private static List<String> sortedByKey(List<String> rows) {
        return rows.stream().sorted().toList();
    }

    private void bigDelivery(String day, int change) {
        StringBuilder huts = new StringBuilder("hut_code,hut_name,beds,changed_on\n");
        StringBuilder nights = new StringBuilder("night_no,hut_code,night\n");
        for (int hut = 0; hut < 60_000; hut++) {
            int beds = change > 0 && hut % change == 0 ? 99 : hut % 50;
            huts.append(
                    "H%d,Hut %d,%d,%s\n".formatted(hut, hut + change, beds, change > 0 ? "2026-03-02" : "2026-03-01"));
            nights.append("%d,H%d,%s\n".formatted(hut, hut, day));
        }
        here.write(day + "/huts.csv", huts.toString());
        here.write(day + "/nights.csv", nights.toString());
    }

    private void copyProject(Program to) {
        for (String file : List.of(
                "zeitkammer.yaml",
                "inputs/huts.yaml",
                "dimensions/hut.yaml",
                "facts/night.yaml",
                "2026-03-01/huts.csv",
                "2026-03-01/nights.csv",
                "2026-03-02/huts.csv",
                "2026-03-02/nights.csv")) {
            to.write(file, here.read(file));
        }
    }
}
