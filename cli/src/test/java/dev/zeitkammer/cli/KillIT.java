package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A load that is killed, at many places, and run again ends where one without the kill does: same tables, same marks. */
class KillIT {

    private static final String DAY = "2026-03-02";
    private static final List<String> PLACES = List.of(
            "dim_hut: stage",
            "dim_hut: insert versions",
            "fact_stay: stage",
            "fact_stay: lookups",
            "fact_stay: insert facts");

    @TempDir
    Path folder;

    private Program star(String name) {
        Program star = new Program(folder.resolve(name));
        star.write("zeitkammer.yaml", "project: star\n");
        star.write("dimensions/hut.yaml", """
                dimension: hut
                from: {files: "{date}/huts.csv", columns: {since: date}}
                key: code
                attributes: {category: type 2}
                history: {effective: since}
                """);
        star.write("facts/stay.yaml", """
                fact: stay
                from: {files: "{date}/stays.csv", columns: {night: date, changed_at: timestamp}, newer-than: changed_at}
                append: true
                lookups: {hut: {match: code, as-of: night}}
                degenerate: [stay_no]
                """);
        for (int day = 1; day <= 2; day++) {
            StringBuilder huts = new StringBuilder("code,category,since\n");
            StringBuilder stays = new StringBuilder("stay_no,code,night,changed_at\n");
            for (int row = 0; row < 6_000; row++) {
                huts.append("H%d,C%d,2026-03-0%d\n".formatted(row, row % (5 + day), day));
                stays.append("%d,H%d,2026-03-0%d,2026-03-0%d 10:00:00\n".formatted(row * day, row, day, day));
            }
            star.write("2026-03-0" + day + "/huts.csv", huts.toString());
            star.write("2026-03-0" + day + "/stays.csv", stays.toString());
        }
        assertThat(star.run("load", "--date", "2026-03-01").status()).isZero();
        return star;
    }

    private static List<String> tables(Program star) {
        List<String> all = new ArrayList<>(star.table("hut"));
        star.table("stay").stream().sorted().forEach(all::add);
        all.addAll(
                star.run("journal", "--marks", "--format", "csv").out().lines().toList());
        return all;
    }

    @Test
    void endsWhereAnUndisturbedLoadWouldHave() throws Exception {
        Program calm = star("calm");
        assertThat(calm.run("load", "--date", DAY).status()).isZero();
        List<String> expected = tables(calm);
        assertThat(expected)
                .contains("fact_stay,stay,changed_at,2026-03-02 10:00:00")
                .hasSizeGreaterThan(20_000);
        int cutOff = 0;
        for (String place : PLACES) {
            Program star = star(place.replaceAll("\\W+", "-"));
            assertThat(killed(star, place)).as("killed at " + place).isTrue();
            assertThat(star.run("load", "--date", DAY).status()).isZero();
            assertThat(tables(star)).as("killed at " + place).isEqualTo(expected);
            assertThat(star.run("verify", "-q").status()).isZero();
            cutOff += star.run("journal").out().contains("cut off") ? 1 : 0;
        }
        assertThat(cutOff).as("loads that the kill reached before they ended").isGreaterThan(2);
    }

    @Test
    void anUndoThatIsKilledIsDoneOrNot() throws Exception {
        Program star = star("undo");
        List<String> first = tables(star);
        assertThat(star.run("load", "--date", DAY).status()).isZero();
        int kept = 0;
        for (int wait = 250; wait <= 1_000; wait += Program.isThorough() ? 25 : 150) {
            List<String> loaded = tables(star);
            Process process = star.startTelling("undo");
            Thread.sleep(wait);
            process.destroyForcibly();
            process.waitFor();
            List<String> after = tables(star);
            assertThat(after).as("killed after " + wait + " ms").isIn(first, loaded);
            kept += after.equals(loaded) ? 1 : 0;
            assertThat(star.run("verify", "-q").status()).isZero();
            if (after.equals(first)) {
                assertThat(star.run("load", "--date", DAY).status()).isZero();
            }
        }
        assertThat(kept).as("undos that the kill reached").isPositive();
        assertThat(star.run("undo").status()).isZero();
        assertThat(tables(star)).isEqualTo(first);
    }

    /** Loads the day and kills the program as soon as it tells of a step. */
    private static boolean killed(Program star, String place) throws IOException, InterruptedException {
        Process process = star.startTelling("load", "--date", DAY, "-v");
        boolean reached = false;
        try (BufferedReader told = process.errorReader()) {
            for (String line = told.readLine(); line != null && !reached; line = told.readLine()) {
                reached = line.startsWith(place);
            }
            process.destroyForcibly();
        }
        process.waitFor();
        return reached;
    }
}
