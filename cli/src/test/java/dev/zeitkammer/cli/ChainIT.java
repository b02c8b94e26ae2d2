package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.DisabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;

/** The chain around the load, cut off: what inputs remember, what is published, and commands that run with a load. */
@DisabledOnOs(OS.WINDOWS)
class ChainIT {

    private static final int ROWS = 20_000;

    @TempDir
    Path folder;

    private Program star(String name) {
        Program star = new Program(folder.resolve(name));
        star.write("zeitkammer.yaml", "project: star\n");
        star.write("inputs/headers.yaml", "input: headers\nfiles: \"headers-{date}.csv\"\nkeep: {by: booking}\n");
        star.write(
                "inputs/lines.yaml",
                "input: lines\nfiles: \"lines-{date}.csv\"\ncolumns: {night: integer, guests: integer}\nkeep: {by: [booking, night]}\n");
        star.write("inputs/nights.yaml", "input: nights\njoin: {from: lines, with: [{input: headers, by: booking}]}\n");
        star.write("facts/stay.yaml", """
                fact: stay
                from: nights
                grain: [booking, night]
                degenerate: channel
                measures: {guests: integer}
                publish: {as: csv, keep-for: 0 minutes}
                """);
        StringBuilder headers = new StringBuilder("booking,channel\n");
        StringBuilder lines = new StringBuilder("booking,night,guests\n");
        for (int row = 0; row < ROWS; row++) {
            headers.append("b").append(row).append(",web\n");
            lines.append("b").append(row).append(",1,2\n");
        }
        star.write("headers-2026-03-01.csv", headers.toString());
        star.write("lines-2026-03-01.csv", lines.toString());
        star.write("headers-2026-03-02.csv", headers.toString().replace("7,web", "7,phone"));
        star.write("lines-2026-03-03.csv", "booking,night,guests\nb7,1,9\nb7,2,1\n");
        return star;
    }

    private List<String> rows(Program star) {
        return star.table("stay").stream().sorted().toList();
    }

    /** Whatever is cut off, the same load once more ends where an undisturbed one would have. */
    @Test
    void cutOffAtAnyPointAndRunAgainTheFactIsRight() throws Exception {
        Program calm = star("calm");
        assertThat(calm.run("load", "--dates", "2026-03-01..2026-03-03").status())
                .isZero();
        List<String> expected = rows(calm);
        assertThat(expected).hasSize(ROWS + 2).contains("b7,1,phone,9", "b7,2,phone,1", "b17,1,phone,2");
        Program star = star("disturbed");
        int killed = 0;
        for (String day : List.of("2026-03-01", "2026-03-02", "2026-03-03")) {
            int step = Program.isThorough() ? 100 : 400;
            for (int delay = 500; delay <= 1_300; delay += step) {
                Process load = star.start("load", "--date", day);
                if (!load.waitFor(delay, TimeUnit.MILLISECONDS)) {
                    load.destroyForcibly().waitFor();
                    killed++;
                }
                Path manifest = folder.resolve("disturbed/published/fact_stay/manifest.json");
                if (Files.exists(manifest)) {
                    long rows = Files.readAllLines(manifest).stream()
                            .filter(line -> line.startsWith("  \"rows\""))
                            .map(line -> Long.parseLong(line.replaceAll("\\D", "")))
                            .findFirst()
                            .orElseThrow();
                    assertThat(Files.readAllLines(folder.resolve("disturbed/published/fact_stay/current/part-0.csv")))
                            .hasSizeBetween(ROWS + 1, ROWS + 3);
                    assertThat(rows).isBetween((long) ROWS, ROWS + 2L);
                }
            }
            assertThat(star.run("load", "--date", day).status()).isZero();
        }
        assertThat(killed).isGreaterThan(2);
        assertThat(rows(star)).isEqualTo(expected);
        Path published = folder.resolve("disturbed/published/fact_stay/current/part-0.csv");
        assertThat(Files.readAllLines(published)).hasSize(ROWS + 2);
        assertThat(calm.run("undo").err()).contains("written anew by: zeitkammer publish fact_stay");
        assertThat(calm.run("publish").status()).isZero();
        assertThat(Files.readAllLines(folder.resolve("calm/published/fact_stay/current/part-0.csv")))
                .as("after the newest load was taken back")
                .hasSize(ROWS + 1);
    }

    @Test
    void aCommandEndsWithTheLoadThatIsEnded() throws Exception {
        Program star = star("hanging");
        star.write(
                "zeitkammer.yaml",
                "project: star\nextra:\n  - {name: wait, before: load, command: [sh, -c, \"sleep 9741\"]}\n");
        Process load = star.start("load", "--date", "2026-03-01");
        assertThat(waitUntil(() -> sleeps() > 0)).as("the command runs").isTrue();
        load.destroy();
        assertThat(load.waitFor(30, TimeUnit.SECONDS)).isTrue();
        assertThat(waitUntil(() -> sleeps() == 0)).as("it ended with the load").isTrue();
    }

    private static long sleeps() {
        return ProcessHandle.allProcesses()
                .filter(process -> process.info().commandLine().orElse("").endsWith("sleep 9741"))
                .count();
    }

    private static boolean waitUntil(BooleanSupplier so) throws InterruptedException {
        Instant end = Instant.now().plus(Duration.ofSeconds(30));
        while (!so.getAsBoolean() && Instant.now().isBefore(end)) {
            Thread.sleep(100);
        }
        return so.getAsBoolean();
    }
}
