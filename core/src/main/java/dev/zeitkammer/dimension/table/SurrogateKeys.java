package dev.zeitkammer.dimension.table;

import dev.zeitkammer.dimension.table.DimensionColumn.Role;
import dev.zeitkammer.engine.Dialect;
import dev.zeitkammer.lookup.KeyHash;
import java.util.List;

/** SQL for the surrogate keys of new rows. */
public interface SurrogateKeys {

    /**
     * The key of a member's only new version: {@code m} is the matched row, {@code r} the staged one, {@code c} the member's
     * current version.
     */
    String ofMatched();

    /** The key of a version of a rebuilt timeline: {@code v} is the version, {@code m} the member, {@code c} its current version. */
    String ofRebuilt();

    /** Whether {@link #ofMatched} needs {@code r} and {@code c}. */
    default boolean readsRows() {
        return true;
    }

    /** Whether two rows could be given one key, so that it must be checked. */
    default boolean canCollide() {
        return false;
    }

    /** Whether the highest key must be remembered. */
    boolean isNumbered();

    /** That a key was given before, in words. */
    static String givenTwice(String table, long key) {
        return "The surrogate key " + key + " of " + table
                + " would be given a second time; a surrogate key is never reused, so nothing was loaded";
    }

    /**
     * The highest key ever given plus 1, 2, 3 …, in staging order, a member's versions in order of effective.
     *
     * @param highest SQL for the highest key given before this load
     */
    public record Sequence(String highest) implements SurrogateKeys {

        @Override
        public String ofMatched() {
            return highest + " + row_number() over (order by m.zk_row)";
        }

        @Override
        public String ofRebuilt() {
            return "coalesce((select max(zk_new_key) from " + Scratch.KEYS + "), " + highest
                    + ") + row_number() over (order by v.zk_from, v.zk_member)";
        }

        @Override
        public boolean readsRows() {
            return false;
        }

        @Override
        public boolean isNumbered() {
            return true;
        }
    }

    /**
     * The column {@code zk_key} of the delivery.
     *
     * @param canCollide whether a delivery may name a key twice, or one that another member has
     */
    public record Delivered(boolean canCollide) implements SurrogateKeys {

        @Override
        public String ofMatched() {
            return "r.zk_key";
        }

        @Override
        public String ofRebuilt() {
            throw new IllegalStateException("computed members have no history");
        }

        @Override
        public boolean isNumbered() {
            return false;
        }
    }

    /**
     * 63 bits of a hash over the business key and the running number of the member's versions ever made.
     */
    public record Hash(DimensionTable table, Dialect dialect) implements SurrogateKeys {

        @Override
        public String ofMatched() {
            return hash("r", table.hasHistory() ? made() + " + 1" : "1");
        }

        @Override
        public String ofRebuilt() {
            return hash(
                    "m",
                    made()
                            + " + case when m.zk_placeholder is null then 0 else 1 end + row_number() over (partition by v.zk_member order by v.zk_from)");
        }

        @Override
        public boolean isNumbered() {
            return false;
        }

        @Override
        public boolean canCollide() {
            return true;
        }

        /** Rows are never removed and versions are numbered 1 to n, so that the current version's number is n. */
        private String made() {
            return "coalesce(" + dialect.column("c", table.name(Role.VERSION)) + ", 0)";
        }

        private String hash(String alias, String number) {
            List<String> parts = table.keys().stream()
                    .map(name -> dialect.column(alias, name))
                    .toList();
            return KeyHash.of(dialect, parts, number);
        }
    }
}
