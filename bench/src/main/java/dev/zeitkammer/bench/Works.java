package dev.zeitkammer.bench;

import static dev.zeitkammer.bench.Contestant.BY_HAND;
import static dev.zeitkammer.bench.Contestant.FLOOR;
import static dev.zeitkammer.bench.Contestant.PROGRAM;

import dev.zeitkammer.bench.Contestant.State;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/** Makes the data of each work, the warehouse that it begins with, and its contestants. */
final class Works {

    static final String DAY_1 = "2026-03-01";
    static final String DAY_2 = "2026-03-02";
    static final String DAY_3 = "2026-03-03";
    static final int CHANGED = 25;
    private static final String MANY_MEMORY = "3500MB";
    private static final long HUTS = 20_000;
    static final long TOURS = 2_000;
    private static final String URL = "jdbc:duckdb:" + Project.WAREHOUSE;
    static final String HISTORY =
            "select count(*), sum(cast(is_current as integer)), sum(%s), sum(version), min(valid_from), max(valid_from) from %s";
    static final String FACTS =
            "select count(*), sum(hut_key), sum(guest_key), sum(tour_key), sum(night_key), sum(paid) from fact_night_stay";

    private final Setting setting;
    private final Data data;
    private final Databases databases;

    Works(Setting setting, Data data, Databases databases) {
        this.setting = setting;
        this.data = data;
        this.databases = databases;
    }

    /** The names of the works, in the order of the report. */
    enum Name {
        FIRST,
        NEXT,
        IMAGES,
        EXTRACT,
        PARQUET,
        CSV,
        ABSENT,
        SPLICE,
        WIDE,
        WIDEST,
        VERSION,
        DEMO,
        TABLES,
        HEALED,
        SERVER,
        SERVER_TABLE,
        SERVER_FACTS,
        CLUSTER_NEXT,
        CLUSTER_FACTS,
        MANY;

        /** Whether it is measured unless others are asked for. */
        boolean isUsual() {
            return this != MANY && !needsCluster();
        }

        boolean needsServer() {
            return this == SERVER || this == SERVER_TABLE || this == SERVER_FACTS;
        }

        boolean needsCluster() {
            return this == CLUSTER_NEXT || this == CLUSTER_FACTS;
        }
    }

    Work make(Name name, Scale scale) throws Exception {
        return switch (name) {
            case FIRST -> first(scale);
            case NEXT -> next(scale);
            case IMAGES -> images(scale);
            case EXTRACT -> extract(scale);
            case PARQUET -> nights(scale, "parquet");
            case CSV -> nights(scale, "csv");
            case ABSENT -> new LateWorks(this, setting, data).absent(scale);
            case SPLICE -> new LateWorks(this, setting, data).splice(scale);
            case WIDE -> wide(scale.wide(), 500);
            case WIDEST -> wide(Math.max(10, scale.wide() / 80), 2000);
            case VERSION -> version();
            case DEMO -> demo();
            case TABLES -> tables();
            case HEALED -> new LateWorks(this, setting, data).healed(scale);
            case SERVER_FACTS -> new ServerWorks(this, setting, data, databases.server()).facts(scale);
            case SERVER -> new ServerWorks(this, setting, data, databases.server()).next(scale);
            case SERVER_TABLE -> new ServerWorks(this, setting, data, databases.server()).ownTable(scale);
            case CLUSTER_NEXT -> new ClusterWorks(setting, data, databases.cluster()).next(scale);
            case CLUSTER_FACTS -> new ClusterWorks(setting, data, databases.cluster()).facts(scale);
            case MANY -> many(scale);
        };
    }

    Path folder(String name) throws Exception {
        return Files.createDirectories(setting.folder().resolve(name));
    }

    static Path delivery(Path project, String day, String file) {
        return project.resolve("deliveries").resolve(day).resolve(file);
    }

    Contestant script(String name, String file, State state, String... values) {
        return new Contestant(name, state, setting.script(file, URL, List.of(values)));
    }

    Contestant load(State state, String day) {
        return new Contestant(PROGRAM, state, setting.program("load", "--date", day));
    }

    static Optional<Work.Agreement> agreement(Path project, String query) {
        return Optional.of(() -> Asking.ask(project.resolve(Project.WAREHOUSE), query));
    }

    private Path guests(Scale scale) throws Exception {
        Path project = folder("guests-" + scale.members() + "-" + scale.extract());
        if (!Files.exists(project.resolve("base.duckdb"))) {
            Project.in(project).guests();
            data.guests(delivery(project, DAY_1, "guests.csv"), scale.members(), 1, 0, 1);
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", DAY_1);
            Setting.keep(project, "base.duckdb");
        }
        return project;
    }

    private void deliver(Path project, Scale scale, String day, int number, long every) throws Exception {
        Path file = delivery(project, day, "guests.csv");
        if (!Files.exists(file)) {
            data.guests(file, scale.members(), number, CHANGED, every);
        }
    }

    static String csv(Path project, String day) {
        return "csv=" + delivery(project, day, "guests.csv");
    }

    private Work first(Scale scale) throws Exception {
        Path project = guests(scale);
        State empty = Setting.copyOf(project.resolve("none"), project);
        String csv = csv(project, DAY_1);
        return new Work(
                "first load, " + count(scale.members()) + " members, 12 attributes, CSV",
                "1.5 x CREATE TABLE AS of the file",
                FLOOR,
                1.5,
                project,
                List.of(
                        script(FLOOR, "first-floor", empty, csv),
                        script(BY_HAND, "first-by-hand", empty, csv, "date=" + DAY_1),
                        load(empty, DAY_1)),
                agreement(project, HISTORY.formatted("guest_key", "dim_guest where guest_key > 0")));
    }

    private Work next(Scale scale) throws Exception {
        Path project = guests(scale);
        deliver(project, scale, DAY_2, 2, 1);
        State base = Setting.copyOf(project.resolve("base.duckdb"), project);
        String csv = csv(project, DAY_2);
        return new Work(
                "next load, all " + count(scale.members()) + " staged, 2.5 % changed",
                "1.15 x by hand",
                BY_HAND,
                1.15,
                project,
                List.of(
                        script(FLOOR, "next-floor", base, csv),
                        script(BY_HAND, "next-by-hand", base, csv, "date=" + DAY_2),
                        load(base, DAY_2)),
                agreement(project, HISTORY.formatted("guest_key", "dim_guest where guest_key > 0")));
    }

    /** What it costs that rows are kept as they were: against the same load that keeps none. */
    private Work images(Scale scale) throws Exception {
        Path project = guests(scale);
        deliver(project, scale, DAY_2, 2, 1);
        Path without = folder("guests-without-images-" + scale.members());
        Project.in(without).guests().withoutImages();
        Files.createDirectories(without.resolve("deliveries").resolve(DAY_2));
        Files.copy(
                delivery(project, DAY_2, "guests.csv"),
                delivery(without, DAY_2, "guests.csv"),
                StandardCopyOption.REPLACE_EXISTING);
        Path base = project.resolve("base.duckdb");
        return new Work(
                "the same, beside one that keeps no rows as they were (floor)",
                "1.1 x without",
                FLOOR,
                1.1,
                project,
                List.of(
                        new Contestant(
                                FLOOR,
                                Setting.copyOf(base, without),
                                setting.program("load", "--date", DAY_2, "-p", without.toString())),
                        load(Setting.copyOf(base, project), DAY_2)),
                Optional.empty());
    }

    private Work extract(Scale scale) throws Exception {
        Path project = guests(scale);
        deliver(project, scale, DAY_3, 3, scale.extract());
        State base = Setting.copyOf(project.resolve("base.duckdb"), project);
        String csv = csv(project, DAY_3);
        return new Work(
                "next load, " + count(scale.members() / scale.extract()) + " of " + count(scale.members()) + " staged",
                "2 x staging and one scan of the keys",
                FLOOR,
                2,
                project,
                List.of(
                        script(FLOOR, "extract-floor", base, csv),
                        script(BY_HAND, "next-by-hand", base, csv, "date=" + DAY_3),
                        load(base, DAY_3)),
                agreement(project, HISTORY.formatted("guest_key", "dim_guest where guest_key > 0")));
    }

    private Work nights(Scale scale, String format) throws Exception {
        Path project = folder("nights-" + scale.facts() + "-" + format);
        Path nights = delivery(project, DAY_3, "nights." + format);
        if (!Files.exists(project.resolve("base.duckdb"))) {
            Project.in(project).nights(format);
            data.members(delivery(project, DAY_1, "huts.csv"), "hut", HUTS, 1, 0);
            data.members(delivery(project, DAY_1, "guests.csv"), "guest", scale.guests(), 1, 0);
            data.members(delivery(project, DAY_1, "tours.csv"), "tour", TOURS, 1, 0);
            data.members(delivery(project, "2026-02-01", "huts.csv"), "hut", HUTS, 2, 200);
            Files.move(project.resolve("deliveries").resolve(DAY_1), project.resolve("deliveries/2026-01-01"));
            data.nights(nights, scale.facts(), scale.guests(), HUTS, TOURS);
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", "2026-01-01");
            setting.prepare(project, "load", "--date", "2026-02-01");
            Setting.keep(project, "base.duckdb");
        }
        State base = Setting.copyOf(project.resolve("base.duckdb"), project);
        String file = format.equals("csv") ? "nights" : format;
        return new Work(
                "facts, " + count(scale.facts()) + " staged, 4 lookups, one as-of, "
                        + (format.equals("csv") ? "CSV" : "parquet"),
                format.equals("csv") ? "1.3 x by hand" : "1.15 x by hand",
                BY_HAND,
                format.equals("csv") ? 1.3 : 1.15,
                project,
                List.of(
                        script(FLOOR, file + "-floor", base, "nights=" + nights),
                        script(BY_HAND, file + "-by-hand", base, "nights=" + nights),
                        load(base, DAY_3)),
                agreement(project, FACTS));
    }

    /** More facts than fit into memory, each with six lookups. */
    private Work many(Scale scale) throws Exception {
        long facts = scale.facts() / 2 * 5;
        Path project = folder("many-" + facts);
        if (!Files.exists(project.resolve("base.duckdb"))) {
            Project.in(project, MANY_MEMORY).nights("csv").wardens();
            for (String name : List.of("hut", "tour", "warden")) {
                data.members(delivery(project, DAY_1, name + "s.csv"), name, TOURS, 1, 0);
            }
            data.members(delivery(project, DAY_1, "guests.csv"), "guest", scale.guests(), 1, 0);
            data.nights(delivery(project, DAY_3, "nights.csv"), facts, scale.guests(), TOURS, TOURS);
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", DAY_1);
            Setting.keep(project, "base.duckdb");
        }
        return new Work(
                "facts, " + count(facts) + " staged, 6 lookups, CSV, memory " + MANY_MEMORY,
                "within 4 GB",
                "",
                Double.MAX_VALUE,
                project,
                List.of(load(Setting.copyOf(project.resolve("base.duckdb"), project), DAY_3)),
                Optional.empty());
    }

    private Work wide(long members, int attributes) throws Exception {
        Path project = folder("wide-" + attributes + "-" + members);
        if (!Files.exists(project.resolve("base.duckdb"))) {
            Project.in(project).wide(attributes);
            data.wide(delivery(project, DAY_1, "huts.csv"), members, attributes);
            Files.createDirectories(project.resolve("deliveries").resolve(DAY_2));
            Files.copy(
                    delivery(project, DAY_1, "huts.csv"),
                    delivery(project, DAY_2, "huts.csv"),
                    StandardCopyOption.REPLACE_EXISTING);
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", DAY_1);
            Setting.keep(project, "base.duckdb");
        }
        State base = Setting.copyOf(project.resolve("base.duckdb"), project);
        String csv = "csv=" + delivery(project, DAY_2, "huts.csv");
        String columns = "columns="
                + Stream.concat(
                                Stream.of("hut_no: 'bigint'"),
                                IntStream.rangeClosed(1, attributes)
                                        .mapToObj(number ->
                                                "a" + number + ": '" + (number % 2 == 1 ? "integer" : "varchar") + "'"))
                        .collect(Collectors.joining(", "));
        String differs = "differs="
                + IntStream.rangeClosed(1, attributes)
                        .mapToObj(number -> "s.a%d is distinct from d.a%d".formatted(number, number))
                        .collect(Collectors.joining(" or "));
        return new Work(
                "a dimension of " + attributes + " attributes, " + count(members) + " members, nothing changed",
                "1.5 x staging it",
                FLOOR,
                1.5,
                project,
                List.of(
                        script(FLOOR, "wide-floor", base, csv, columns),
                        script(BY_HAND, "wide-by-hand", base, csv, columns, differs),
                        load(base, DAY_2)),
                agreement(project, HISTORY.formatted("hut_key", "dim_hut where hut_key > 0")));
    }

    private Work version() throws Exception {
        return new Work(
                "zeitkammer --version",
                "0.15 s",
                "",
                0.15,
                folder("start"),
                List.of(
                        new Contestant(FLOOR, () -> {}, setting.nothing()),
                        new Contestant(PROGRAM, () -> {}, setting.program("--version"))),
                Optional.empty());
    }

    /** The last day of the demo; the warehouse holds the days before. */
    private Work demo() throws Exception {
        Path project = folder("start").resolve("demo");
        Path base = project.resolve("base.duckdb");
        if (!Files.exists(base)) {
            setting.prepare(project.getParent(), "demo", "demo");
            Files.delete(project.resolve(Project.WAREHOUSE));
            setting.prepare(project, "load", "--dates", "2026-03-01..2026-03-04");
            Setting.keep(project, "base.duckdb");
        }
        State state = Setting.copyOf(base, project);
        return new Work(
                "load of the demo's day",
                "0.8 s",
                "",
                0.8,
                project,
                List.of(
                        new Contestant(FLOOR, state, setting.script("start-floor", URL, List.of())),
                        load(state, "2026-03-05")),
                Optional.empty());
    }

    private Work tables() throws Exception {
        Path project = folder("small-tables");
        Path base = project.resolve("base.duckdb");
        Path day = project.resolve("deliveries").resolve(DAY_2);
        if (!Files.exists(base)) {
            Project.in(project).small(SmallTables.tables());
            SmallTables.deliver(data, project.resolve("deliveries").resolve(DAY_1), 1);
            SmallTables.deliver(data, day, 2);
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", DAY_1);
            Setting.keep(project, "base.duckdb");
        }
        State state = Setting.copyOf(base, project);
        return new Work(
                "10 dimensions of 10 members, 2 of them changed",
                "1.5 x by hand",
                BY_HAND,
                1.5,
                project,
                List.of(
                        script(FLOOR, "start-floor", state),
                        script(BY_HAND, "tables-by-hand", state, "statements=" + SmallTables.byHand(day, DAY_2)),
                        load(state, DAY_2)),
                agreement(project, SmallTables.agreement()));
    }

    static String count(long rows) {
        if (rows >= 1_000_000 && rows % 100_000 == 0) {
            return rows % 1_000_000 == 0 ? rows / 1_000_000 + "M" : rows / 100_000 / 10.0 + "M";
        }
        return rows >= 1_000 ? rows / 1_000 + "k" : String.valueOf(rows);
    }
}
