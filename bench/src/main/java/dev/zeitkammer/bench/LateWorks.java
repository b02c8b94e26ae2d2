package dev.zeitkammer.bench;

import static dev.zeitkammer.bench.Contestant.BY_HAND;
import static dev.zeitkammer.bench.Contestant.FLOOR;

import dev.zeitkammer.bench.Contestant.State;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** The works of what ends or comes late: absent members, late rows, late members. */
final class LateWorks {

    private final Works works;
    private final Setting setting;
    private final Data data;

    LateWorks(Works works, Setting setting, Data data) {
        this.works = works;
        this.setting = setting;
        this.data = data;
    }

    /** A full extract that one guest of a hundred has left. */
    Work absent(Scale scale) throws Exception {
        long members = scale.members() / 5;
        Path project = works.folder("guests-full-" + members);
        Path left = Works.delivery(project, Works.DAY_2, "guests.csv");
        if (!Files.exists(project.resolve("base.duckdb"))) {
            Project.in(project).fullGuests();
            data.guests(Works.delivery(project, Works.DAY_1, "guests.csv"), members, 1, 0, 1);
            Path whole = project.resolve("whole.csv");
            data.guests(whole, members, 2, Works.CHANGED, 1);
            data.part(whole, left, "guest_no % 100 <> 7");
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", Works.DAY_1);
            Setting.keep(project, "base.duckdb");
        }
        State base = Setting.copyOf(project.resolve("base.duckdb"), project);
        return new Work(
                "full extract, " + Works.count(members) + " members, 2.5 % changed, 1 % absent",
                "1.15 x by hand",
                BY_HAND,
                1.15,
                project,
                List.of(
                        works.script(FLOOR, "next-floor", base, "csv=" + left),
                        works.script(BY_HAND, "absent-by-hand", base, "csv=" + left, "date=" + Works.DAY_2),
                        works.load(base, Works.DAY_2)),
                Works.agreement(
                        project,
                        Works.HISTORY.formatted("cast(is_deleted as integer)", "dim_guest where guest_key > 0")));
    }

    /** Rows of one guest in a hundred that come late, between two versions of each. */
    Work splice(Scale scale) throws Exception {
        long members = scale.members();
        Path project = works.folder("guests-dated-" + members);
        Path late = Works.delivery(project, Works.DAY_3, "guests.csv");
        if (!Files.exists(project.resolve("base.duckdb"))) {
            Project.in(project).datedGuests();
            data.towns(Works.delivery(project, Works.DAY_1, "guests.csv"), members, "2026-01-01", 1);
            data.towns(Works.delivery(project, Works.DAY_2, "guests.csv"), members, "2026-02-01", 1);
            data.towns(late, members, "2026-01-15", 100);
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", Works.DAY_1);
            setting.prepare(project, "load", "--date", Works.DAY_2);
            Setting.keep(project, "base.duckdb");
        }
        State base = Setting.copyOf(project.resolve("base.duckdb"), project);
        return new Work(
                "late rows of 1 % of " + Works.count(members) + " members, each between two versions",
                "1.5 x by hand",
                BY_HAND,
                1.5,
                project,
                List.of(
                        works.script(FLOOR, "splice-floor", base, "csv=" + late),
                        works.script(BY_HAND, "splice-by-hand", base, "csv=" + late),
                        works.load(base, Works.DAY_3)),
                Works.agreement(
                        project,
                        "select count(*), sum(version), sum(version * guest_no), sum(cast(is_current as integer)),"
                                + " sum(date_diff('day', valid_from, valid_to) * (guest_no % 1000)), sum(guest_key)"
                                + " from dim_guest where guest_key > 0"));
    }

    /** One guest of five is delivered after the nights that they have stayed. */
    Work healed(Scale scale) throws Exception {
        long facts = scale.facts() / 4;
        long guests = Math.max(1, facts / 20);
        Path project = works.folder("nights-healed-" + facts);
        Path late = Works.delivery(project, Works.DAY_3, "guests.csv");
        if (!Files.exists(project.resolve("base.duckdb"))) {
            Project.in(project).numberedNights();
            data.members(Works.delivery(project, Works.DAY_1, "huts.csv"), "hut", Works.TOURS, 1, 0);
            data.members(Works.delivery(project, Works.DAY_1, "tours.csv"), "tour", Works.TOURS, 1, 0);
            Path all = project.resolve("all.csv");
            data.members(all, "guest", guests, 1, 0);
            data.part(all, Works.delivery(project, Works.DAY_1, "guests.csv"), "guest_no % 5 > 0");
            data.part(all, late, "guest_no % 5 = 0");
            data.nights(
                    Works.delivery(project, Works.DAY_2, "nights.parquet"), facts, guests, Works.TOURS, Works.TOURS);
            Setting.copyOf(project.resolve("none"), project).restore();
            setting.prepare(project, "load", "--date", Works.DAY_1);
            setting.prepare(project, "load", "--date", Works.DAY_2);
            Setting.keep(project, "base.duckdb");
        }
        State base = Setting.copyOf(project.resolve("base.duckdb"), project);
        return new Work(
                "members that come late, " + Works.count(facts / 5) + " of " + Works.count(facts)
                        + " facts find theirs",
                "1.5 x by hand",
                BY_HAND,
                1.5,
                project,
                List.of(
                        works.script(FLOOR, "start-floor", base),
                        works.script(BY_HAND, "healed-by-hand", base, "csv=" + late, "date=" + Works.DAY_3),
                        works.load(base, Works.DAY_3)),
                Works.agreement(
                        project,
                        "select count(*), sum(guest_key), count(distinct guest_key), min(guest_key), sum(paid) from fact_night_stay"));
    }
}
