package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Predicate;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Loads into a cluster that are cut off and run again end where loads of the embedded warehouse without a fault do: same tables,
 * same marks, appended facts once, while somebody else writes to the same schema and compacts what the loads write. With -Dfaults=N
 * at N places, evenly over the statements of a load, and at last the cluster itself is killed.
 */
@Tag("cluster")
class ClusterFaultsIT {

    private static final int FEW = 2;
    private static final int MANY = 30;
    private static final int STATEMENTS = 130;
    private static final int ROWS = 60;

    @TempDir
    Path folder;

    private Program star(String name, String warehouse) {
        Program star = new Program(folder.resolve(name));
        star.write("zeitkammer.yaml", "project: star\nwarehouses:\n  lake: " + warehouse + "\nuse: lake\n");
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
        return star;
    }

    /** Some huts change every day; some stays were delivered the day before. */
    private static void deliver(Program star, int day) {
        StringBuilder huts = new StringBuilder("code,category,since\n");
        StringBuilder stays = new StringBuilder("stay_no,code,night,changed_at\n");
        for (int row = 0; row < ROWS; row++) {
            huts.append("H%d,C%d,%s\n".formatted(row, row % (5 + day), date(day)));
            int changed = row % 3 == 0 ? day - 1 : day;
            stays.append("%d,H%d,%s,%s 10:00:00\n".formatted(row + ROWS * changed, row, date(changed), date(changed)));
        }
        star.write(date(day) + "/huts.csv", huts.toString());
        star.write(date(day) + "/stays.csv", stays.toString());
    }

    private static String date(int day) {
        return "2026-%02d-%02d".formatted(3 + day / 28, 1 + day % 28);
    }

    private static List<String> tables(Program star) {
        List<String> all = new ArrayList<>(star.table("hut"));
        star.table("stay").stream().sorted().forEach(all::add);
        all.addAll(
                star.run("journal", "--marks", "--format", "csv").out().lines().toList());
        return all;
    }

    /** Where a load is cut off: at a statement that was told, or after so many. */
    private static List<Predicate<List<String>>> places(int faults) {
        if (faults <= FEW) {
            return List.of(
                    told -> told.get(told.size() - 1).contains("decided` select") && isOf(told, "dim_hut"),
                    told -> told.get(told.size() - 1).contains("system.fast_forward") && isOf(told, "fact_stay"));
        }
        return IntStream.range(0, faults)
                .<Predicate<List<String>>>mapToObj(nth -> told -> told.size() > STATEMENTS * nth / faults)
                .toList();
    }

    private static boolean isOf(List<String> told, String table) {
        return told.stream().filter(line -> line.matches("(dim|fact)_\\w+: .*")).reduce((first, last) -> last).stream()
                .anyMatch(last -> last.startsWith(table));
    }

    /** Loads a day and does something as soon as it tells that it is there. */
    private static void disturbed(Program star, int day, Predicate<List<String>> place, Fault fault) throws Exception {
        Process process = star.startTelling("load", "--date", date(day), "-v");
        List<String> told = new ArrayList<>();
        try (BufferedReader lines = process.errorReader()) {
            for (String line = lines.readLine(); line != null; line = lines.readLine()) {
                told.add(line);
                if (place.test(told)) {
                    fault.happens(process);
                    break;
                }
            }
            while (lines.readLine() != null) {
                // what it still says does not matter
            }
        } catch (IOException ended) {
            // with the process
        }
        assertThat(process.waitFor()).as("killed on day " + day).isNotZero();
    }

    private interface Fault {
        void happens(Process load) throws Exception;
    }

    @Test
    void endsWhereAnUndisturbedLoadWouldHave() throws Exception {
        int faults = Integer.getInteger("faults", Program.isThorough() ? MANY : FEW);
        try (LocalCluster cluster = new LocalCluster(folder.resolve("cluster"));
                OtherWriter other = new OtherWriter(cluster, "star")) {
            Program calm = star("calm", "{url: \"jdbc:duckdb:warehouse.duckdb\"}");
            Program star = star("star", cluster.warehouse("star"));
            load(calm, 1);
            load(star, 1);
            other.start();
            int day = 1;
            for (Predicate<List<String>> place : places(faults)) {
                day++;
                deliver(star, day);
                other.compactsOnce();
                disturbed(star, day, place, Process::destroyForcibly);
                assertEqual(calm, star, day);
            }
            if (faults > FEW) {
                day++;
                deliver(star, day);
                disturbed(star, day, told -> told.size() > STATEMENTS / 2, load -> cluster.fail());
                assertEqual(calm, star, day);
            }
            assertThat(star.run("verify", "-q").status()).isZero();
            List<Long> told = other.ended();
            assertThat(told).isNotEmpty();
            assertThat(other.standing())
                    .as("of what somebody else was told to be written nothing is lost")
                    .containsAll(told)
                    .doesNotHaveDuplicates();
            assertThat(other.compactions()).as("compactions beside the loads").isPositive();
        }
    }

    private static void load(Program star, int day) {
        deliver(star, day);
        Program.Run run = star.run("load", "--date", date(day), "--wait", "4m");
        assertThat(run.status()).as(run.err()).isZero();
    }

    private static void assertEqual(Program calm, Program star, int day) {
        load(star, day);
        load(calm, day);
        assertThat(tables(star)).as("after day " + day).isEqualTo(tables(calm));
    }
}
