package dev.zeitkammer.reference;

import static org.assertj.core.api.Assertions.assertThat;

import dev.zeitkammer.books.LoadEntry;
import dev.zeitkammer.books.LoadStatus;
import dev.zeitkammer.books.TableEntry;
import dev.zeitkammer.definition.Project;
import dev.zeitkammer.definition.reading.ProjectReader;
import dev.zeitkammer.engine.Row;
import dev.zeitkammer.engine.Warehouse;
import dev.zeitkammer.load.LoadListener;
import dev.zeitkammer.load.Loader;
import dev.zeitkammer.load.Loader.Request;
import dev.zeitkammer.load.Scenarios;
import dev.zeitkammer.load.TestStar;
import dev.zeitkammer.load.TestWarehouses;
import dev.zeitkammer.verify.Verdict;
import dev.zeitkammer.verify.Verifier;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.stream.LongStream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.DisabledIf;
import org.junit.jupiter.api.io.TempDir;

/**
 * Random deliveries into a dimension, compared with {@link ReferenceDimension} in every column and every count. They are the
 * same at every run; {@link Scenarios} says how more and others are run.
 */
class RandomDeliveriesTest {

    private static final int COPIES = 4000;
    private static final LocalDate START = LocalDate.of(2026, 3, 1);

    @TempDir
    Path folder;

    @Test
    void everyColumnAndCountEqualsTheReference() {
        Scenarios.run(Scenarios.DIMENSIONS.seeds(20_260_301).parallel(), seed -> new Scenario(seed, 1, true).run());
    }

    /** Of many thousand scenarios, those that found a mistake. */
    @Tag("slow")
    @Test
    @DisabledIf("dev.zeitkammer.load.TestWarehouses#onCluster") // minutes for each
    void whatOnceWentWrongIsRight() {
        Scenarios.run(
                LongStream.of(300_191, 310_436, 400_500, 1_200_844, 1_400_323, 20_260_476)
                        .parallel(),
                seed -> new Scenario(seed, 1, false).run());
    }

    /** The same rows for thousands of members in several files, beyond a row group of the engine, with all threads. */
    @Test
    void largeDeliveriesAreRightToo() {
        Scenarios.run(Scenarios.LARGE.seeds(20_260_302), seed -> new Scenario(seed, COPIES, false).run());
    }

    /** A dimension and some deliveries to it. */
    private final class Scenario {
        private final long seed;
        private final int copies;
        private final int loads;
        private final Random random;
        private final Settings settings;
        private final ReferenceDimension reference;
        private final StagedDeliveries staged;
        private long highest;

        /**
         * @param copies how many members there are of each that the reference knows
         * @param varied whether rows may lie in the warehouse, and deliveries lack an attribute
         */
        Scenario(long seed, int copies, boolean varied) {
            this.seed = seed;
            this.copies = copies;
            this.loads = Scenarios.loads(copies > 1);
            this.random = new Random(seed);
            this.settings = Settings.random(random, seed, varied);
            this.reference = new ReferenceDimension(settings);
            this.staged = new StagedDeliveries(folder.resolve("s" + seed), settings, seed, copies);
        }

        void run() {
            try {
                load();
            } catch (IOException | RuntimeException failed) {
                throw new AssertionError("seed " + seed + ", " + settings, failed);
            }
        }

        private void load() throws IOException {
            Path here = folder.resolve("s" + seed);
            Files.createDirectories(here.resolve("dimensions"));
            Files.writeString(here.resolve(Project.FILE), settings.project());
            Files.writeString(here.resolve("dimensions/thing.yaml"), settings.dimension());
            if (settings.owned() > 0) {
                Files.writeString(here.resolve("dimensions/owner.yaml"), settings.owner());
            }
            Project project = ProjectReader.read(here, Map.of());
            try (Warehouse warehouse = TestWarehouses.open(here)) {
                if (copies > 1) {
                    warehouse.stager().execute("reset threads");
                }
                Loader loader = new Loader(project, warehouse, LoadListener.NONE, Clock.systemUTC());
                List<List<StagedRow>> days = new ArrayList<>();
                for (int number = 0; number < loads; number++) {
                    LocalDate day = START.plusDays(number);
                    List<StagedRow> delivery = staged.lacking(number, delivery());
                    staged.write(warehouse, day, delivery);
                    if (number == 0 || random.nextInt(3) == 0) {
                        Files.write(here.resolve(settings.days().loadDate(day).in("owners-{date}.csv")), owners());
                    }
                    compare(loader, warehouse, delivery, day);
                    if (random.nextInt(8) == 0) {
                        compare(loader, warehouse, delivery, day);
                    }
                    days.add(delivery);
                    if (settings.effective() && random.nextInt(5) == 0) {
                        int older = random.nextInt(days.size());
                        staged.write(warehouse, START.plusDays(older), days.get(older));
                        compare(loader, warehouse, days.get(older), START.plusDays(older));
                    } else if (number == loads - 1 && settings.areReadAgain()) {
                        assertNothingChanges(loader, warehouse, delivery, day);
                    }
                }
                assertThat(new Verifier(warehouse).verify(project.definitions()))
                        .filteredOn(verdict -> !verdict.holds())
                        .extracting(Verdict::told)
                        .isEmpty();
            }
        }

        private List<StagedRow> delivery() {
            List<StagedRow> rows = new ArrayList<>();
            int count = random.nextInt(90);
            for (int row = 0; row < count; row++) {
                boolean repeat = !rows.isEmpty() && random.nextInt(15) == 0;
                rows.add(repeat ? rows.get(random.nextInt(rows.size())) : row());
            }
            return rows;
        }

        private List<String> owners() {
            List<String> lines = new ArrayList<>(List.of("owner,since,grade"));
            for (int owner = 0; owner < 3; owner++) {
                if (random.nextBoolean()) {
                    LocalDate since = START.minusDays(6).plusDays(random.nextInt(12));
                    lines.add("w" + owner + "," + settings.days().told(since) + "," + random.nextInt(3));
                }
            }
            return lines;
        }

        private StagedRow row() {
            return new StagedRow(
                    isUnusable() ? null : "m" + random.nextInt(8),
                    isUnusable() ? null : "p" + random.nextInt(3),
                    START.minusDays(5).plusDays(random.nextInt(10)),
                    oneOf(null, "f", "g"),
                    oneOf(null, "o", "u", "o"),
                    oneOf(null, "n", "s", "n"),
                    oneOf("x", "y", "x", null),
                    isUnusable() ? "many" : oneOf(null, "1", "2", "1"),
                    settings.owned() == 0 ? null : oneOf(null, "w0", "w1", "w2", "w9"),
                    random.nextInt(5) == 0 ? null : random.nextInt(4),
                    settings.deletions() && random.nextInt(4) == 0);
        }

        /** Every other large delivery is clean, so that a step that writes nothing is followed by one that writes much. */
        private boolean isUnusable() {
            return random.nextInt(40) == 0 && (copies == 1 || seed % 2 == 1);
        }

        private @Nullable String oneOf(@Nullable String... values) {
            return values[random.nextInt(values.length)];
        }

        private void compare(Loader loader, Warehouse warehouse, List<StagedRow> delivery, LocalDate day) {
            List<String> before = expectedRows();
            Rehearsed rehearsed =
                    new Rehearsed(loader, warehouse, settings.days().loadDate(day), seed);
            LoadEntry load = loader.load(
                    Request.everything(settings.days().loadDate(day)).news("test"));
            TableEntry entry = load.tables().get(load.tables().size() - 1);
            String what = "seed %d, %s, load %d for %s".formatted(seed, settings, load.load(), day);
            assertThat(entry.status()).as(what + entry.error()).isEqualTo(LoadStatus.DONE);
            Map<String, Long> expected =
                    reference.load(delivery, owners(warehouse), day, load.load(), staged.lacks(delivery));
            String story = difference(before, delivery, table(warehouse), expectedRows());
            assertThat(story).as(what).isEmpty();
            expected.replaceAll((name, rows) -> rows * copies);
            assertThat(entry.counts())
                    .as(what + (delivery.size() > 12 ? "" : delivery))
                    .containsExactlyInAnyOrderEntriesOf(expected);
            assertKeys(warehouse, what);
            rehearsed.assertSame(what, load);
        }

        /**
         * What was loaded, and is read once more, is known. What a version was last stated at may differ, where another row had parted
         * it; and a deletion that made another one forgotten moves the member's latest statement.
         */
        private void assertNothingChanges(Loader loader, Warehouse warehouse, List<StagedRow> delivery, LocalDate day) {
            List<String> before = unstated(warehouse);
            LoadEntry load = loader.load(Request.everything(settings.days().loadDate(day)));
            TableEntry entry = load.tables().get(load.tables().size() - 1);
            String what = "seed %d, %s, load %d for %s again".formatted(seed, settings, load.load(), day);
            assertThat(difference(before, delivery, unstated(warehouse), before))
                    .as(what)
                    .isEmpty();
            assertThat(entry.count("unchanged")
                            + entry.count("repeated")
                            + entry.count("setAside")
                            + entry.count("waiting"))
                    .as(what + entry.counts())
                    .isEqualTo(entry.count("staged"));
        }

        /** The owners as they stand; that they are right is shown by other scenarios. */
        private Owners owners(Warehouse warehouse) {
            Owners owners = new Owners();
            if (settings.owned() > 0 && warehouse.has("dim_owner")) {
                warehouse.query(
                        "select owner, " + warehouse.dialect().asText("valid_from")
                                + ", owner_key from dim_owner where owner_key > 0"
                                + " order by owner, valid_from",
                        row -> {
                            owners.add(
                                    String.valueOf(row.text(1)),
                                    settings.days().of(String.valueOf(row.text(2))),
                                    row.number(3));
                            return true;
                        });
            }
            return owners;
        }

        /** The first member whose rows are not as expected: before, delivered, found, expected. */
        private String difference(
                List<String> before, List<StagedRow> delivery, List<String> found, List<String> expected) {
            for (List<String> key : reference.members.keySet()) {
                String member = "[" + key.get(0) + ", " + key.get(1) + ",";
                List<String> was =
                        found.stream().filter(row -> row.startsWith(member)).toList();
                List<String> wanted =
                        expected.stream().filter(row -> row.startsWith(member)).toList();
                if (!was.equals(wanted)) {
                    List<String> told = new ArrayList<>(List.of("before:"));
                    before.stream().filter(row -> row.startsWith(member)).forEach(told::add);
                    told.add("delivered:");
                    delivery.stream()
                            .filter(row ->
                                    key.get(0).equals(row.code()) && key.get(1).equals(row.part()))
                            .forEach(row -> told.add(row.toString()));
                    told.add("found:");
                    told.addAll(was);
                    told.add("expected:");
                    told.addAll(wanted);
                    return String.join("\n", told);
                }
            }
            return found.size() == expected.size() ? "" : "rows of a member that nobody expects: " + found;
        }

        private List<String> table(Warehouse warehouse) {
            String history = settings.history() ? ", valid_from, valid_to, is_current, version" : "";
            String stated = settings.history() && settings.effective() ? ", last_stated" : "";
            String columns = "part, first, over, zone, former, text, number"
                    + (settings.owned() > 0 ? ", owner_key" : "") + ", inserted_by, updated_by, is_deleted" + history
                    + stated;
            String sql = "select substr(code, 1, 2), " + columns
                    + ", count(*) from " + settings.rows()
                    + " where row_origin = 'source' group by substr(code, 1, 2), " + columns
                    + " order by 1, part" + (settings.history() ? ", valid_from" : "");
            return warehouse.query(sql, RandomDeliveriesTest::joined);
        }

        private List<String> unstated(Warehouse warehouse) {
            boolean isStated = settings.history() && settings.effective();
            return table(warehouse).stream()
                    .map(row -> isStated ? row.replaceFirst(", [^,]*(, \\d+])$", "$1") : row)
                    .toList();
        }

        private List<String> expectedRows() {
            List<String> rows = new ArrayList<>();
            reference.members.forEach((key, member) -> {
                for (int number = 0; number < member.versions.size(); number++) {
                    rows.add(expectedRow(key, member, number));
                }
            });
            return rows;
        }

        private String expectedRow(List<String> key, Member member, int number) {
            List<Version> versions = member.versions;
            Version version = versions.get(number);
            List<@Nullable Object> values = new ArrayList<>(key);
            values.addAll(Arrays.asList(member.first, version.over, member.zone, member.former));
            values.addAll(version.versioned.subList(0, 2));
            if (settings.owned() > 0) {
                values.add(settings.owned() == 1 ? member.ownerKey : version.ownerKey);
            }
            values.add(version.insertedBy);
            values.add(version.updatedBy);
            values.add(version.ended != null);
            if (settings.history()) {
                boolean current = number + 1 == versions.size();
                values.add(settings.days().stored(version.from));
                @Nullable
                LocalDate ended =
                        version.ended != null ? version.ended : current ? null : versions.get(number + 1).from;
                values.add(ended == null ? openEnd() : settings.days().stored(end(ended)));
                values.add(current);
                values.add(number + 1);
                if (settings.effective()) {
                    values.add(settings.days().stored(version.stated));
                }
            }
            values.add(copies);
            return values.toString();
        }

        private @Nullable String openEnd() {
            return settings.openEnd() ? settings.days().openEnd() : null;
        }

        private LocalDate end(LocalDate next) {
            return settings.inclusive() ? next.minusDays(1) : next;
        }

        /** Keys are unique and never change; new ones are higher than all before, in order of effective within a member. */
        private void assertKeys(Warehouse warehouse, String what) {
            Map<List<String>, List<Long>> keys = new LinkedHashMap<>();
            warehouse.query(
                    "select substr(code, 1, 2), part, thing_key from " + settings.rows()
                            + " where row_origin = 'source'"
                            + " and code like '%|_0' escape '|' order by code, part"
                            + (settings.history() ? ", valid_from" : ""),
                    row -> keys.computeIfAbsent(
                                    List.of(Objects.requireNonNull(row.text(1)), Objects.requireNonNull(row.text(2))),
                                    key -> new ArrayList<>())
                            .add(row.number(3)));
            if (settings.named()) {
                assertThat(
                                warehouse.number(
                                        "select count(*) from (select c, p from dim_thing where row_origin = 'source' group by c, p"
                                                + " having count(distinct thing_member_key) > 1 or min(thing_member_key) is null"
                                                + " or max(case when thing_sk = thing_member_key then 1 else 0 end) = 0) as apart"))
                        .as(what + ": members with another key in some version")
                        .isZero();
            }
            long before = highest;
            reference.members.forEach((member, told) -> {
                long last = before;
                for (int number = 0; number < told.versions.size(); number++) {
                    Version version = told.versions.get(number);
                    long key = keys.get(member).get(number);
                    if (version.key == 0) {
                        assertThat(key).as(what).isGreaterThan(settings.hash() ? 0 : last);
                        last = key;
                        version.key = key;
                    }
                    assertThat(key)
                            .as(what + ": the key of version " + number + " of " + member)
                            .isEqualTo(version.key);
                }
            });
            assertThat(warehouse.number("select count(*) - count(distinct thing_key) from " + settings.rows()))
                    .as(what + ": keys that stand twice")
                    .isZero();
            highest = warehouse.number("select coalesce(max(thing_key), 0) from " + settings.rows());
        }
    }

    private static String joined(Row row) {
        List<@Nullable String> values = new ArrayList<>();
        for (int column = 1; column <= row.width(); column++) {
            values.add(TestStar.text(row, column));
        }
        return values.toString();
    }
}
