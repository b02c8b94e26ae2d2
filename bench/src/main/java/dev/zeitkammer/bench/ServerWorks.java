package dev.zeitkammer.bench;

import static dev.zeitkammer.bench.Contestant.BY_HAND;
import static dev.zeitkammer.bench.Contestant.FLOOR;

import dev.zeitkammer.bench.Contestant.State;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** The works on a PostgreSQL server. */
final class ServerWorks {

    /** Before the first night. */
    private static final String BEGIN = "2026-01-01";

    /** The table in which the guests are staged. */
    private static final String OFFICE = """
            create schema office;
            create table office.guests (guest_no bigint, guest_name text, email text, phone text, street text, born_on date,
              town text, country text, membership text, nights integer, joined_on date, rating decimal(4,1), tours integer)""";

    private final Works works;
    private final Setting setting;
    private final Data data;
    private final Server server;

    ServerWorks(Works works, Setting setting, Data data, Server server) {
        this.works = works;
        this.setting = setting;
        this.data = data;
        this.server = server;
    }

    /** A next load of all guests. */
    Work next(Scale scale) throws Exception {
        Path project = works.folder("server-" + scale.onServer());
        Project.in(project, server.url("bench"), Server.USER, Project.MEMORY).guests();
        data.guests(Works.delivery(project, Works.DAY_1, "guests.csv"), scale.onServer(), 1, 0, 1);
        data.guests(Works.delivery(project, Works.DAY_2, "guests.csv"), scale.onServer(), 2, Works.CHANGED, 1);
        server.restore("bench", "template1");
        setting.prepare(project, "load", "--date", Works.DAY_1);
        server.restore("base", "bench");
        State base = () -> server.restore("bench", "base");
        List<String> values = new ArrayList<>(List.of(Works.csv(project, Works.DAY_2), "date=" + Works.DAY_2));
        String url = server.url("bench") + "?user=" + Server.USER;
        return new Work(
                "PostgreSQL: next load, all " + Works.count(scale.onServer()) + " staged, 2.5 % changed",
                "1.15 x COPY and by hand",
                BY_HAND,
                1.15,
                project,
                List.of(
                        new Contestant(FLOOR, base, setting.script("server-floor", url, values)),
                        new Contestant(BY_HAND, base, setting.script("server-by-hand", url, values)),
                        works.load(base, Works.DAY_2)),
                Optional.of(() ->
                        server.ask("bench", Works.HISTORY.formatted("guest_key", "dim_guest where guest_key > 0"))));
    }

    /** A next load of all guests from a table of the server, which is refilled each night. */
    Work ownTable(Scale scale) throws Exception {
        Path project = works.folder("server-table-" + scale.onServer());
        Project.in(project, server.url("bench"), Server.USER, Project.MEMORY).lyingGuests();
        Path first = project.resolve("first.csv");
        Path second = project.resolve("second.csv");
        data.guests(first, scale.onServer(), 1, 0, 1);
        data.guests(second, scale.onServer(), 2, Works.CHANGED, 1);
        server.restore("bench", "template1");
        server.execute("bench", OFFICE);
        server.copy("bench", "office.guests", first);
        setting.prepare(project, "load", "--date", Works.DAY_1);
        server.execute("bench", "truncate office.guests");
        server.copy("bench", "office.guests", second);
        server.execute("bench", "vacuum analyze office.guests");
        server.restore("base", "bench");
        State base = () -> server.restore("bench", "base");
        List<String> values = List.of("date=" + Works.DAY_2);
        String url = server.url("bench") + "?user=" + Server.USER;
        return new Work(
                "PostgreSQL: next load from its own table, all " + Works.count(scale.onServer())
                        + " staged, 2.5 % changed",
                "1.15 x by hand",
                BY_HAND,
                1.15,
                project,
                List.of(
                        new Contestant(FLOOR, base, setting.script("server-table-floor", url, values)),
                        new Contestant(BY_HAND, base, setting.script("server-table-by-hand", url, values)),
                        works.load(base, Works.DAY_2)),
                Optional.of(() ->
                        server.ask("bench", Works.HISTORY.formatted("guest_key", "dim_guest where guest_key > 0"))));
    }

    /** A first load of nights; of one guest in a hundred nobody knows anything. */
    Work facts(Scale scale) throws Exception {
        long facts = scale.facts() / 4;
        long guests = Math.max(1, facts / 20);
        Path project = works.folder("server-nights-" + facts);
        Project.in(project, server.url("bench"), Server.USER, Project.MEMORY).placeholderNights();
        Path nights = Works.delivery(project, Works.DAY_3, "nights.csv");
        data.members(Works.delivery(project, BEGIN, "huts.csv"), "hut", Works.TOURS, 1, 0);
        data.members(Works.delivery(project, BEGIN, "tours.csv"), "tour", Works.TOURS, 1, 0);
        Path all = project.resolve("all.csv");
        data.members(all, "guest", guests, 1, 0);
        data.part(all, Works.delivery(project, BEGIN, "guests.csv"), "guest_no % 100 > 0");
        data.nights(nights, facts, guests, Works.TOURS, Works.TOURS);
        server.restore("bench", "template1");
        setting.prepare(project, "load", "--date", BEGIN);
        server.restore("base", "bench");
        State base = () -> server.restore("bench", "base");
        List<String> values = List.of("nights=" + nights);
        String url = server.url("bench") + "?user=" + Server.USER;
        return new Work(
                "PostgreSQL: first load of " + Works.count(facts) + " facts, 4 lookups, placeholders",
                "1.15 x COPY and by hand",
                BY_HAND,
                1.15,
                project,
                List.of(
                        new Contestant(FLOOR, base, setting.script("server-nights-floor", url, values)),
                        new Contestant(BY_HAND, base, setting.script("server-nights-by-hand", url, values)),
                        works.load(base, Works.DAY_3)),
                Optional.of(() -> server.ask(
                        "bench",
                        "select count(*), sum(hut_key), sum(tour_key), sum(night_key), sum(paid), count(distinct guest_key),"
                                + " (select count(*) from dim_guest), min(guest_key) from fact_night_stay")));
    }
}
