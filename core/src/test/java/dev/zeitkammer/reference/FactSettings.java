package dev.zeitkammer.reference;

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
 * @param leaving whether huts can be deleted, and come back
 */
record FactSettings(
        String onRepeat, String cancelled, String unmatched, boolean follows, boolean replaces, boolean leaving) {

    static FactSettings random(Random random) {
        return new FactSettings(
                List.of("update", "update", "ignore", "refuse").get(random.nextInt(4)),
                List.of("none", "remove", "mark").get(random.nextInt(3)),
                List.of("unknown", "unknown", "placeholder", "set-aside", "wait")
                        .get(random.nextInt(5)),
                random.nextInt(3) > 0,
                random.nextInt(4) == 0,
                random.nextBoolean());
    }

    boolean marks() {
        return cancelled.equals("mark");
    }

    String hut() {
        return """
                dimension: hut
                from: {files: "huts-{date}.csv", columns: {code: varchar, since: date, beds: integer}}
                key: code
                attributes: {beds: type 2}
                history: {effective: since, facts: %s}
                """.formatted(follows ? "follow" : "stay") + (leaving ? "deletions: {when: beds = -1}\n" : "");
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
                  columns: {no: integer, code: varchar, guest_no: integer, night_on: date, paid: integer, status: varchar}
                grain: no
                lookups: {hut: {as-of: night_on, unmatched: %s}, guest: }
                degenerate: night_on
                measures: {paid: integer}
                on-repeat: %s
                """.formatted(unmatched, onRepeat)
                + (cancelled.equals("none") ? "" : "deletions: {when: \"status = 'X'\", rows: " + cancelled + "}\n")
                + (replaces ? "replaces: night_on\n" : "");
    }

    String rows() {
        return "select no, hut_key, guest_key, night_on, paid, is_deleted, inserted_by, updated_by, count(*)"
                + " from (select no % " + ReferenceFacts.APART + " as no, hut_key, guest_key, night_on, paid, "
                + (marks() ? "is_deleted" : "false as is_deleted")
                + ", inserted_by, updated_by from fact_stay) as alike"
                + " group by no, hut_key, guest_key, night_on, paid, is_deleted, inserted_by, updated_by order by no";
    }
}
