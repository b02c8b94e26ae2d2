package dev.zeitkammer.reference;

import dev.zeitkammer.reference.StoredMembers.Found;
import java.util.List;
import java.util.Random;

/**
 * A way in which the random fact is defined.
 *
 * @param onRepeat the word for rows whose grain is there already
 * @param cancelled none, remove or mark
 * @param unmatched the word for huts that nobody has delivered
 * @param follows whether facts follow versions that come late
 * @param replaces whether the nights that are delivered are replaced
 * @param ended the word for huts that were deleted at the date
 * @param named whether columns have names of their own
 * @param days how days are told
 * @param leaving whether huts can be deleted, and come back
 * @param feed whether a feed brings guests and what they paid: none, or what becomes of its rows without a fact
 * @param feedsHuts whether it brings huts and nights too
 */
record FactSettings(
        String onRepeat,
        String cancelled,
        String unmatched,
        boolean follows,
        boolean replaces,
        boolean leaving,
        String ended,
        boolean named,
        Days days,
        String feed,
        boolean feedsHuts) {

    private static final long LATE = -3;

    private static final String NAMED = """
            columns:
              valid_from: begins
              valid_to: ends
              is_current: {column: active, true: 1, false: 0}
              is_deleted: {column: gone, true: "yes", false: "no"}
              inserted_by: made_by
              updated_by: changed_by
            surrogate: {column: hut_sk}
            member-key: true
            """;

    /** The rows of the huts under the names that they have where nothing else is said. */
    String huts() {
        return named
                ? "(select hut_sk as hut_key, code, begins as valid_from, ends as valid_to, gone = 'yes' as is_deleted,"
                        + " row_origin, made_by as inserted_by, hut_member_key as member_key from dim_hut) as named"
                : "(select d.*, hut_key as member_key from dim_hut as d) as plain";
    }

    /** @param seed for what became of facts later, so that all else stays as it was without it */
    static FactSettings random(Random random, long seed) {
        Random further = new Random(seed);
        return new FactSettings(
                List.of("update", "update", "ignore", "refuse").get(random.nextInt(4)),
                List.of("none", "remove", "mark").get(random.nextInt(3)),
                List.of("unknown", "late", "placeholder", "set-aside", "wait").get(random.nextInt(5)),
                random.nextInt(3) > 0,
                random.nextInt(4) == 0,
                random.nextBoolean(),
                List.of("match", "unknown", "late", "set-aside").get(further.nextInt(4)),
                further.nextBoolean(),
                new Days(further.nextInt(3) == 0),
                List.of("none", "set-aside", "wait").get(further.nextInt(3)),
                further.nextBoolean());
    }

    /** What is stored of what a lookup found. */
    Found judged(Found found) {
        if (found.word().equals("unmatched") && unmatched.equals("late")) {
            return new Found(found.word(), LATE);
        }
        if (found.word().equals("ended") && !ended.equals("match")) {
            return new Found(found.word(), ended.equals("late") ? LATE : -1);
        }
        return found;
    }

    /** Whether a fact waits for a hut that nobody has delivered. */
    boolean heals() {
        return unmatched.equals("unknown") || unmatched.equals("late");
    }

    /** Whether guests and payments are the feed's, so that the fact's own input writes them on insert only. */
    boolean isFed() {
        return !feed.equals("none");
    }

    /** Whether huts and nights are the feed's, too. */
    boolean areHutsFed() {
        return isFed() && feedsHuts;
    }

    /** Whether a delivery that is read once more says the same: what waited came with it once only, and a snapshot lacks it then. */
    boolean areReadAgain() {
        return !(replaces && unmatched.equals("wait"));
    }

    boolean marks() {
        return cancelled.equals("mark");
    }

    String hut() {
        return """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {code: varchar, since: %s, beds: integer}}
                key: code
                attributes: {beds: type 2}
                history: {effective: since, facts: %s}
                reserved: {late: {key: -3}}
                """.formatted(days.type(), follows ? "follow" : "stay")
                + (named ? NAMED : "")
                + (leaving ? "deletions: {when: beds = -1}\n" : "");
    }

    String guest() {
        return """
                dimension: guest
                from: {files: "guests-{date}.csv", columns: {guest_no: integer}}
                key: guest_no
                attributes: {}
                """;
    }

    String fact() {
        return """
                fact: stay
                from:
                  files: "stays-{date}*.csv"
                  columns: {no: integer, code: varchar, guest_no: integer, night_on: %s, paid: integer, status: varchar}
                grain: %s
                lookups: {hut: {as-of: night_on, unmatched: %s, ended: %s%s}, guest: }
                degenerate: %s
                measures: {paid: integer}
                on-repeat: %s
                """.formatted(
                                days.type(),
                                named ? "{visit: no}" : "no",
                                unmatched,
                                ended,
                                named ? ", column: hut_sk, member-key: true" : "",
                                named ? "{night: night_on}" : "night_on",
                                onRepeat)
                + (named
                        ? "columns: {is_deleted: {column: gone, true: T, false: F}, inserted_by: made_by, updated_by: changed_by}\n"
                        : "")
                + (cancelled.equals("none") ? "" : "deletions: {when: \"status = 'X'\", rows: " + cancelled + "}\n")
                + (replaces ? "replaces: night_on\n" : "")
                + (isFed()
                        ? """
                        feeds:
                          - from: {files: "calls-{date}*.csv", columns: {no: integer, code: varchar, guest_no: integer, night_on: %s, paid: integer}}
                            match: %s
                            updates: [guest, paid%s]
                            without-fact: %s
                        """.formatted(
                                        days.type(),
                                        named ? "{visit: no}" : "no",
                                        feedsHuts ? named ? ", hut, night" : ", hut, night_on" : "",
                                        feed)
                        : "");
    }

    String rows() {
        String columns = named
                ? "visit %% %d as no, hut_sk as hut_key, hut_member_key as member_key, guest_key, night as night_on, paid, %s as is_deleted, made_by as inserted_by, changed_by as updated_by"
                        .formatted(ReferenceFacts.APART, marks() ? "gone = 'T'" : "false")
                : "no %% %d as no, hut_key, hut_key as member_key, guest_key, night_on, paid, %s as is_deleted, inserted_by, updated_by"
                        .formatted(ReferenceFacts.APART, marks() ? "is_deleted" : "false");
        return "select no, hut_key, member_key, guest_key, night_on, paid, is_deleted, inserted_by, updated_by, count(*)"
                + " from (select " + columns + " from fact_stay) as alike"
                + " group by no, hut_key, member_key, guest_key, night_on, paid, is_deleted, inserted_by, updated_by order by no";
    }
}
