package dev.zeitkammer.reference;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Scenarios;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import dev.zeitkammer.staging.LoadDate;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.nio.file.Path;
import java.time.Clock;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.DisabledIf;
import org.junit.jupiter.api.io.TempDir;

/**
 * Random facts, with huts and guests that come late or change late, compared with {@link ReferenceFacts} in every row and
 * every count. They are the same at every run; {@link Scenarios} says how more and others are run.
 */
class RandomFactsTest {

    private static final int COPIES = Integer.getInteger("copies", TestWarehouses.onServer() ? 3_000 : 12_000);
    private static final int FILES = 3;
    private static final LocalDate START = LocalDate.of(2026, 3, 1);

    @TempDir
    Path folder;

    @Test
    void everyRowAndCountEqualsTheReference() {
        Scenarios.run(Scenarios.FACTS.seeds(20_260_401).parallel(), seed -> new Scenario(seed, 1).run());
    }

    /** The same for thousands of facts that are alike, in several files, beyond a row group, with all threads. */
    @Test
    void largeDeliveriesAreRightToo() {
        Scenarios.run(Scenarios.LARGE.seeds(20_260_402), seed -> new Scenario(seed, COPIES).run());
    }

    /** Where every change is delivered once, a star that got facts first ends like one that got everything in order. */
    @Tag("slow")
    @Test
    @DisabledIf("dev.zeitkammer.load.TestWarehouses#onCluster") // it compares loads with loads, eighty of them
    void factsThatCameFirstEndLikeFactsThatCameInOrder() {
        for (long seed = 1; seed <= Scenarios.EARLY_FACTS.number(); seed++) {
            Random random = new Random(seed);
            FactSettings settings = new FactSettings(
                    "update", "none", "unknown", true, false, false, "match", false, new Days(false), "none", false);
            List<String> huts = new ArrayList<>();
            for (int hut = 0; hut < 5; hut++) {
                for (int change = 0; change < 3; change++) {
                    huts.add("h" + hut + "," + START.plusDays(hut * 2L + change * 7L) + "," + (10 * hut + change));
                }
            }
            List<String> stays = new ArrayList<>();
            for (int no = 0; no < 40; no++) {
                stays.add(no + ",h" + random.nextInt(5) + ",1," + START.plusDays(random.nextInt(30)) + ",1,A");
            }
            List<String> inOrder = ends(settings, "ordered" + seed, List.of(huts), List.of(stays));
            Collections.shuffle(huts, random);
            List<String> late = ends(
                    settings,
                    "late" + seed,
                    List.of(List.of(), huts.subList(0, 4), huts.subList(4, 9), huts.subList(9, 15)),
                    List.of(stays.subList(0, 20), stays.subList(20, 40), List.of(), List.of()));
            assertThat(late).as("seed " + seed).isEqualTo(inOrder);
        }
    }

    private List<String> ends(FactSettings settings, String name, List<List<String>> huts, List<List<String>> stays) {
        try (TestStar star = star(settings, name)) {
            for (int load = 0; load < huts.size(); load++) {
                String day = START.plusDays(load).toString();
                star.write("guests-" + day + ".csv", "guest_no\n1\n");
                star.write("huts-" + day + ".csv", "code,since,beds\n" + String.join("\n", huts.get(load)) + "\n");
                star.write(
                        "stays-" + day + ".csv",
                        ReferenceFacts.HEADER + "\n" + String.join("\n", stays.get(load)) + "\n");
                star.load(day);
            }
            return star.rows("select s.no, h.code, h.beds, h.valid_from, h.valid_to from fact_stay as s"
                    + " join dim_hut as h on h.hut_key = s.hut_key order by s.no");
        }
    }

    private TestStar star(FactSettings settings, String name) {
        return new TestStar(folder.resolve(name))
                .write("dimensions/hut.yaml", settings.hut())
                .write("dimensions/guest.yaml", settings.guest())
                .write("facts/stay.yaml", settings.fact());
    }

    /** A fact and some deliveries to it and its dimensions. */
    private final class Scenario {
        private final long seed;
        private final int copies;
        private final int loads;
        private final Random random;
        private final Random called;
        private final FactSettings settings;
        private final ReferenceFacts reference;
        private int nextHut;

        /** @param copies how many facts there are of each that the reference knows */
        Scenario(long seed, int copies) {
            this.seed = seed;
            this.copies = copies;
            this.loads = Scenarios.loads(copies > 1);
            this.random = new Random(seed);
            this.called = new Random(-seed);
            this.settings = FactSettings.random(random, seed);
            this.reference = new ReferenceFacts(settings);
        }

        void run() {
            try {
                load();
            } catch (RuntimeException failed) {
                throw new AssertionError("seed " + seed + " " + settings, failed);
            }
        }

        private void load() {
            try (TestStar star = star(settings, "s" + seed)) {
                if (copies > 1) {
                    star.warehouse().stager().execute("reset threads");
                }
                if (seed % 2 == 0) {
                    star.tight();
                }
                for (int number = 0; number < loads; number++) {
                    load(star, START.plusDays(number).toString(), number);
                }
                if (copies == 1 && settings.areReadAgain()) {
                    again(star, START.plusDays(loads - 1).toString());
                }
                assertThat(new Verifier(star.warehouse()).verify(star.project().definitions()))
                        .as("seed " + seed + settings)
                        .filteredOn(verdict -> !verdict.holds())
                        .extracting(Verdict::claim)
                        .isEmpty();
            }
        }

        /** What is told of deliveries that are not read is what reading them comes to. */
        private void again(TestStar star, String day) {
            List<TableEntry> told = star.loadNews(day).tables();
            List<TableEntry> read = star.load(day).tables();
            for (int table = 0; table < read.size(); table++) {
                String what = "seed " + seed + " " + settings + ", "
                        + read.get(table).table() + " again, " + told.get(table).error();
                assertThat(told.get(table).counts())
                        .as(what)
                        .isEqualTo(read.get(table).counts());
                assertThat(told.get(table).lookups())
                        .as(what)
                        .isEqualTo(read.get(table).lookups());
                assertThat(told.get(table).unmatched())
                        .as(what)
                        .containsExactlyInAnyOrderElementsOf(read.get(table).unmatched());
            }
        }

        private void load(TestStar star, String day, int number) {
            star.write("guests-" + day + ".csv", "guest_no\n" + (random.nextBoolean() ? random.nextInt(6) + "\n" : ""));
            star.write("huts-" + day + ".csv", "code,since,beds\n" + huts());
            @Nullable List<StagedFact> delivery = number == 0 || random.nextInt(5) > 0 ? rows(random) : null;
            if (delivery != null) {
                write(star, "stays-" + day, delivery);
            }
            @Nullable List<StagedFact> calls = settings.isFed() && called.nextInt(4) > 0 ? rows(called) : null;
            if (calls != null) {
                write(star, "calls-" + day, calls);
            }
            Rehearsed rehearsed = new Rehearsed(
                    new Loader(star.project(), star.warehouse(), LoadListener.NONE, Clock.systemUTC()),
                    star.warehouse(),
                    LoadDate.parse(day),
                    seed);
            LoadEntry loaded = star.loadNews(day);
            List<TableEntry> tables = loaded.tables();
            TableEntry entry = tables.get(tables.size() - 1);
            String what = "seed " + seed + " " + settings + ", load for " + day + " ";
            reference.load(delivery, calls, new StoredMembers(star, settings, number + 1L), number + 1L);
            if (entry.status() == LoadStatus.SKIPPED) {
                assertThat(delivery).as(what).isNull();
                assertThat(calls).as(what).isNull();
                assertThat(reference.moved()).as(what).isZero();
                return;
            }
            assertThat(entry.status()).as(what + entry.error()).isEqualTo(LoadStatus.DONE);
            assertThat(star.rows(settings.rows())).as(what).isEqualTo(reference.rows(copies));
            reference.counts().replaceAll((name, rows) -> rows * copies);
            reference.lookups().values().forEach(found -> found.replaceAll((word, rows) -> rows * copies));
            assertThat(entry.counts())
                    .as(what + delivery + calls)
                    .containsExactlyInAnyOrderEntriesOf(reference.counts());
            assertThat(entry.lookups()).as(what + delivery + calls).isEqualTo(reference.lookups());
            rehearsed.assertSame(what, loaded);
        }

        private void write(TestStar star, String name, List<StagedFact> delivery) {
            int files = Math.min(copies, FILES);
            for (int file = 0; file < files; file++) {
                List<String> lines = new ArrayList<>(List.of(ReferenceFacts.HEADER));
                for (int copy = file * copies / files; copy < (file + 1) * copies / files; copy++) {
                    for (StagedFact row : delivery) {
                        lines.add(row.csv(settings.days(), copy * ReferenceFacts.APART));
                    }
                }
                star.write(name + (file == 0 ? "" : "-" + file) + ".csv", String.join("\n", lines) + "\n");
            }
        }

        /** Each hut comes once a day at most, some for the first time. */
        private String huts() {
            StringBuilder rows = new StringBuilder();
            for (int hut = 0; hut < 5; hut++) {
                if (random.nextInt(3) == 0) {
                    rows.append("h").append(hut).append(',');
                    rows.append(settings.days().told(START.plusDays(random.nextInt(20) - 5)));
                    boolean leaves = settings.leaving() && random.nextInt(4) == 0;
                    rows.append(',').append(leaves ? -1 : nextHut++ % 7).append('\n');
                }
            }
            return rows.toString();
        }

        private List<StagedFact> rows(Random random) {
            List<StagedFact> rows = new ArrayList<>();
            int count = random.nextInt(25);
            for (int row = 0; row < count; row++) {
                boolean repeat = !rows.isEmpty() && random.nextInt(12) == 0;
                rows.add(
                        repeat
                                ? rows.get(random.nextInt(rows.size()))
                                : StagedFact.random(random, START, copies == 1 || seed % 2 == 1));
            }
            return rows;
        }
    }
}
