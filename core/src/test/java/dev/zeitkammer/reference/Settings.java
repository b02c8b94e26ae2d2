package dev.zeitkammer.reference;

import dev.zeitkammer.load.TestWarehouses;
import java.util.List;
import java.util.Random;

/**
 * A way in which the random dimension is defined.
 *
 * @param history whether the last two attributes are of type 2, else of type 1
 * @param effective whether a column orders the statements, else the load date
 * @param late the word for late rows
 * @param deletions whether rows can delete their member
 * @param full whether a delivery holds every member, so that a missing one ends
 * @param hash whether surrogate keys are hashes
 * @param currentOnly whether type 1 reaches the current version only
 * @param lastBy whether the last of several rows of a moment counts, instead of none
 * @param named whether columns have names and values of their own, keys are taken from expressions, and members have a key
 * @param days how days are told
 * @param owned the type of the lookup of an owner; 0: there is none
 * @param unowned the word for owners that nobody has delivered
 * @param lying whether the rows lie in a table of the warehouse, as texts, instead of in files
 * @param adds whether a member whose first row ends it is kept as one that has ended
 * @param lacking whether some deliveries lack the attribute of type 1, which members then keep
 */
record Settings(
        boolean history,
        boolean effective,
        boolean inclusive,
        boolean openEnd,
        String late,
        boolean deletions,
        boolean full,
        boolean hash,
        boolean currentOnly,
        boolean lastBy,
        boolean named,
        Days days,
        int owned,
        String unowned,
        boolean lying,
        boolean lacking,
        boolean adds) {

    /** The table of rows that lie in the warehouse. */
    static final String TABLE = "office.day";

    private static final String NAMED = """
            member-key: true
            columns:
              valid_from: begins
              valid_to: ends
              is_current: {column: active, true: Y, false: N}
              is_deleted: {column: gone, true: 1, false: 0}
              version: nr
              inserted_by: made_by
            """;

    /** The rows of the dimension, under the names that they have where nothing else is said. */
    String rows() {
        if (!named) {
            return "dim_thing";
        }
        String versions = history
                ? ", begins as valid_from, ends as valid_to, active = 'Y' as is_current, nr as version"
                        + (effective ? ", last_stated" : "")
                : "";
        return "(select thing_sk as thing_key, thing_member_key, c as code, p as part, first, over, zone, former, text, number, row_origin"
                + (owned > 0 ? ", owner_key" : "") + ", made_by as inserted_by, updated_by, gone = 1 as is_deleted"
                + versions + " from dim_thing) as named";
    }

    /**
     * @param seed for what came later, so that all else stays as it was without it
     * @param varied whether the rows may lie in the warehouse, deliveries lack an attribute, and deletions add members
     */
    static Settings random(Random random, long seed, boolean varied) {
        boolean history = random.nextInt(5) > 0;
        boolean splices = random.nextInt(3) > 0;
        int owned = Math.max(0, random.nextInt(6) - 3);
        boolean effective = random.nextInt(4) > 0;
        boolean inclusive = random.nextBoolean();
        Random further = new Random(seed);
        boolean named = further.nextInt(3) == 0;
        Days days = new Days(!inclusive && further.nextInt(3) == 0);
        String unowned = List.of("unknown", "unknown", "set-aside", "wait").get(further.nextInt(4));
        boolean waits = owned > 0 && unowned.equals("wait");
        boolean openEnd = random.nextBoolean();
        boolean deletions = splices && random.nextInt(3) > 0;
        return new Settings(
                history,
                effective,
                inclusive,
                openEnd,
                splices ? "splice" : "set-aside",
                deletions,
                splices && random.nextInt(3) == 0,
                random.nextInt(4) == 0,
                owned != 1 && random.nextInt(3) == 0,
                random.nextInt(3) == 0,
                named,
                days,
                history ? owned : Math.min(owned, 1),
                unowned,
                varied && seed % 3 == 1 && !TestWarehouses.onCluster(),
                varied && seed % 4 == 2 && !waits,
                varied && deletions && seed % 5 < 2);
    }

    String project() {
        return """
                project: random
                warehouses: {memory: {url: "jdbc:duckdb:"}}
                conventions: {valid-to: %s, open-end: %s}
                """.formatted(inclusive ? "inclusive" : "exclusive", openEnd ? "9999-12-31" : "none");
    }

    String owner() {
        return """
                dimension: owner
                from: {files: "owners-{date}.csv", columns: {owner: varchar, since: %s, grade: varchar}}
                key: owner
                attributes: {grade: type 2}
                history: {effective: since}
                """.formatted(days.type());
    }

    String dimension() {
        String changes = history ? "type 2" : "type 1";
        return """
                dimension: thing
                from:
                  %s
                  extract: %s
                  columns:
                    {status: varchar, effective: %s, number: integer, first: varchar, %szone: varchar,
                     text: varchar, owner: varchar, sent: integer}
                key: %s
                attributes:
                  {first: type 0, over: %s, zone: {type: 3, previous: former}, text: %s, number: %s}
                """.formatted(
                                lying ? "table: " + TABLE : "files: \"day-{date}*.csv\"",
                                full ? "full" : "changes",
                                days.type(),
                                lacking ? "" : "over: varchar, ",
                                named ? "{c: code, p: \"substr(part || '', 1)\"}" : "[code, part]",
                                lacking ? "{type: 1, missing: keep}" : "type 1",
                                changes,
                                changes)
                + "history: {" + (effective ? "effective: effective, late: " + late + ", " : "") + "overwrite: "
                + (currentOnly ? "current" : "all") + "}\n"
                + (deletions || full ? ends() : "")
                + (lastBy ? "duplicates: last by sent\n" : "")
                + (owned > 0 ? "lookups: {owner: {type: " + owned + ", unmatched: " + unowned + "}}\n" : "")
                + (named
                        ? NAMED + "surrogate: {column: thing_sk, by: " + (hash ? "hash" : "sequence") + "}\n"
                        : hash ? "surrogate: hash\n" : "");
    }

    /**
     * Whether a delivery that is read once more says the same. After a deletion by a condition it may not, and not beside rows that
     * waited, which came with it once only.
     */
    boolean areReadAgain() {
        return !deletions && !(owned > 0 && unowned.equals("wait"));
    }

    private String ends() {
        return "deletions: {limit: 100%" + (deletions ? ", when: \"status = 'D'\"" : "")
                + (adds ? ", unknown: add" : "")
                + (full ? ", absent: close" : "") + "}\n";
    }
}
