package dev.zeitkammer.bench;

import static dev.zeitkammer.bench.Contestant.BY_HAND;
import static dev.zeitkammer.bench.Contestant.FLOOR;
import static dev.zeitkammer.bench.Contestant.PROGRAM;

import dev.zeitkammer.bench.Contestant.State;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;

/** The works on a cluster: a next load, and facts with four lookups. */
final class ClusterWorks {

    private static final String BEGIN = "2026-01-01";
    private static final String LATER = "2026-02-01";
    private static final long EVERY = 5;
    private static final long HUTS = 20_000;
    private static final long TOURS = 2_000;
    private static final double LIMIT = 1.3;

    private final Setting setting;
    private final Data data;
    private final Cluster cluster;

    ClusterWorks(Setting setting, Data data, Cluster cluster) {
        this.setting = setting;
        this.data = data;
        this.cluster = cluster;
    }

    private Path folder(String name) throws Exception {
        return Files.createDirectories(setting.folder().resolve(name));
    }

    private Contestant script(String name, String file, State state, String... values) {
        return new Contestant(name, state, setting.script(file, cluster.url(), List.of(values)));
    }

    /** One guest of five is staged; of these some changed. */
    Work next(Scale scale) throws Exception {
        long members = scale.onCluster();
        Path project = folder("cluster-guests-" + members);
        String schema = "guests_" + members;
        Project.onCluster(project, cluster.url(), schema).guests();
        Path first = Works.delivery(project, Works.DAY_1, "guests.csv");
        Path staged = Works.delivery(project, Works.DAY_2, "guests.csv");
        if (!Files.exists(staged)) {
            data.guests(first, members, 1, 0, 1);
            data.guests(staged, members, 2, Works.CHANGED, EVERY);
        }
        cluster.drop(schema);
        setting.prepare(project, "load", "--date", Works.DAY_1);
        cluster.keep(schema);
        State base = () -> cluster.restore(schema);
        List<String> values = List.of("csv=" + staged, "date=" + Works.DAY_2, "schema=" + schema);
        return new Work(
                "cluster: next load, " + Works.count(members / EVERY) + " of " + Works.count(members)
                        + " staged, 2.5 % changed",
                LIMIT + " x by hand",
                BY_HAND,
                LIMIT,
                project,
                List.of(
                        script(FLOOR, "cluster-next-floor", base, values.toArray(String[]::new)),
                        script(BY_HAND, "cluster-next-by-hand", base, values.toArray(String[]::new)),
                        new Contestant(PROGRAM, base, setting.program("load", "--date", Works.DAY_2))),
                Optional.of(() ->
                        cluster.ask(Works.HISTORY.formatted("guest_key", schema + ".dim_guest where guest_key > 0"))));
    }

    /** A first delivery of nights; one of the four lookups is at the date of the night. */
    Work facts(Scale scale) throws Exception {
        long facts = scale.onCluster();
        Path project = folder("cluster-nights-" + facts);
        String schema = "nights_" + facts;
        Project.onCluster(project, cluster.url(), schema).nights("csv");
        Path nights = Works.delivery(project, Works.DAY_3, "nights.csv");
        if (!Files.exists(nights)) {
            data.members(Works.delivery(project, BEGIN, "huts.csv"), "hut", HUTS, 1, 0);
            data.members(Works.delivery(project, BEGIN, "guests.csv"), "guest", Math.max(1, facts / 20), 1, 0);
            data.members(Works.delivery(project, BEGIN, "tours.csv"), "tour", TOURS, 1, 0);
            data.members(Works.delivery(project, LATER, "huts.csv"), "hut", HUTS, 2, 200);
            data.nights(nights, facts, Math.max(1, facts / 20), HUTS, TOURS);
        }
        cluster.drop(schema);
        setting.prepare(project, "load", "--date", BEGIN);
        setting.prepare(project, "load", "--date", LATER);
        cluster.keep(schema);
        State base = () -> cluster.restore(schema);
        return new Work(
                "cluster: facts, " + Works.count(facts) + " staged, 4 lookups, one as-of, CSV",
                LIMIT + " x by hand",
                BY_HAND,
                LIMIT,
                project,
                List.of(
                        script(FLOOR, "cluster-nights-floor", base, "nights=" + nights, "schema=" + schema),
                        script(BY_HAND, "cluster-nights-by-hand", base, "nights=" + nights, "schema=" + schema),
                        new Contestant(PROGRAM, base, setting.program("load", "--date", Works.DAY_3))),
                Optional.of(() -> cluster.ask(Works.FACTS.replace("from ", "from " + schema + "."))));
    }
}
